import { useEffect, useRef, useState } from "react";

/** A colour to choose. It is taken once the choice is made, not at every shade passed on the way. */
export function Ink({ label, shown, onTake }: { label: string; shown: string; onTake: (ink: string) => void }) {
  const field = useRef<HTMLInputElement>(null);
  const take = useRef(onTake);
  const [ink, setInk] = useState(shown);
  useEffect(() => setInk(shown), [shown]);
  useEffect(() => {
    take.current = onTake;
  });
  useEffect(() => {
    const input = field.current;
    const chosen = () => input && take.current(input.value);
    // The browser's own event: React's fires while the pointer still wanders over the shades.
    input?.addEventListener("change", chosen);
    return () => input?.removeEventListener("change", chosen);
  }, []);
  return (
    <label className="text-[11.5px] text-mute">
      {label}
      <input
        ref={field}
        type="color"
        className="mt-0.5 block h-7 w-full cursor-pointer"
        value={ink}
        onChange={(e) => setInk(e.target.value)}
      />
    </label>
  );
}
