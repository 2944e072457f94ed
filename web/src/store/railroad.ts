import { create } from "zustand";

export type Lies = "through" | "diverging" | "left" | "right";
type Section = { stretch: number; address: number | null; section: string };
type Hello = {
  railroad: string;
  plan: string;
  sections: Section[];
  turnouts: { id: string; turnout: string; lies?: Lies[] }[];
  devices: { id: string; device: string; switches?: boolean }[];
  trains?: { id: string; train: string; driven: boolean }[];
};
type Told =
  | ({ is: "hello" } & Hello)
  | ({ is: "occupied"; on: boolean } & Section)
  | { is: "aspect"; id: string; shows: string; lights?: string[] }
  | { is: "turnout"; id: string; lies: string }
  | { is: "power"; id: string; state: string }
  | { is: "amps"; t: number; amps: Record<string, number> }
  | { is: "news"; t: number; words: string }
  | { is: "over" };

/** The railroad that is listened to: a stand-in, or the club's own. */
type Railroad = {
  port: number;
  hello: Hello | null;
  listening: boolean;
  trouble: string | null;
  lit: ReadonlyMap<number, Section>;
  heads: Readonly<Record<string, { shows: string; lights: string[] }>>;
  lies: Readonly<Record<string, string>>;
  open: ReadonlySet<string>;
  amps: Readonly<Record<string, number>>;
  t: number;
  /** The number that came last. */
  last: Section | null;
  news: string[];
  set: (part: Partial<Railroad>) => void;
  listen: (port: number) => void;
  hangUp: () => void;
};

let line: EventSource | null = null;
const KEEPS = 8;
const EMPTY = { lit: new Map(), heads: {}, lies: {}, open: new Set<string>(), amps: {}, t: 0, last: null, news: [] };

export const useRailroad = create<Railroad>((set, get) => ({
  port: 4700,
  hello: null,
  listening: false,
  trouble: null,
  ...EMPTY,
  set: (part) => set(part),
  listen: (port) => {
    line?.close();
    const mine = new EventSource(`/api/line/heard?port=${port}`);
    line = mine;
    set({ ...EMPTY, port, listening: true, trouble: null, hello: null });
    mine.addEventListener("told", (event) => set(after(get(), JSON.parse(event.data) as Told)));
    mine.addEventListener("gone", (event) => {
      mine.close();
      set({ listening: false, trouble: (JSON.parse(event.data) as { words: string }).words });
    });
    mine.onerror = () => {
      mine.close();
      if (get().listening) set({ listening: false, trouble: "The program does not answer." });
    };
  },
  hangUp: () => {
    line?.close();
    line = null;
    set({ ...EMPTY, listening: false, hello: null, trouble: null });
  },
}));

/** How things stand after something was told. */
function after(now: Railroad, told: Told): Partial<Railroad> {
  switch (told.is) {
    case "hello":
      return { hello: told };
    case "occupied": {
      const lit = new Map(now.lit);
      if (told.on) lit.set(told.stretch, told);
      else lit.delete(told.stretch);
      return { lit, last: told.on ? told : now.last };
    }
    case "aspect":
      return { heads: { ...now.heads, [told.id]: { shows: told.shows, lights: told.lights ?? ["unknown"] } } };
    case "turnout":
      return { lies: { ...now.lies, [told.id]: told.lies } };
    case "power": {
      const open = new Set(now.open);
      if (told.state === "open") open.add(told.id);
      else if (told.state === "closed") open.delete(told.id);
      return { open };
    }
    case "amps":
      return { amps: told.amps, t: told.t };
    case "news":
      return { news: [told.words, ...now.news].slice(0, KEEPS) };
    default:
      return { listening: false, trouble: "The evening is over." };
  }
}
