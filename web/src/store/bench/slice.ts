/** A part of the bench: given the way to change it, what it begins as. */
export type Slice<Part> = (set: (change: Partial<Part> | ((now: Part) => Partial<Part>)) => void) => Part;
