import { useEffect } from "react";
import { navigate, useBrowserLocation, useSearch } from "wouter/use-browser-location";
import { type Bench, type Kind, type Look, type Step, useBench } from "../store/bench";
import { mapOf } from "../store/bench/chosen";
import { LOOKS, oneOf, STEPS } from "../store/bench/looking";
import { useLayout } from "../store/layout";

/** Where one is: `/l/<layout>/<step>/<tab>` with look, scene, the chosen thing, place and finding behind it. */
export type Address = {
  page: Bench["page"];
  layout: string | null;
  step: Step | null;
  tab: string | null;
  look: Look | null;
  scene: string | null;
  thing: { kind: Kind; id: string } | null;
  place: { track: string; at: number } | null;
  finding: string | null;
};

const NOWHERE: Address = {
  page: "bench",
  layout: null,
  step: null,
  tab: null,
  look: null,
  scene: null,
  thing: null,
  place: null,
  finding: null,
};
const ALL_STEPS: readonly Step[] = [...STEPS, "sums"];

/** Splits at the first colon: ids of things hold none before it. */
const halves = (text: string | null) => {
  const at = text?.indexOf(":") ?? -1;
  return text && at > 0 ? ([text.slice(0, at), text.slice(at + 1)] as const) : null;
};

/** A part of an address as it was before it was put into one; what is no such part is taken as it stands. */
const plain = (part: string) => {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
};

/** What an address says. Links of the first versions (`/?layout=ID#step`) lead where they led. */
export function read(path: string, search: string, hash: string): Address {
  const query = new URLSearchParams(search);
  const [first, ...rest] = path.split("/").filter(Boolean).map(plain);
  if (first === "layouts") return { ...NOWHERE, page: "layouts" };
  if (first === "sums") return { ...NOWHERE, step: "sums" };
  if (first !== "l")
    return { ...NOWHERE, layout: query.get("layout"), step: oneOf<Step | "">(hash.slice(1), ALL_STEPS, "") || null };
  const thing = halves(query.get("thing"));
  const place = halves(query.get("place"));
  return {
    page: "bench",
    layout: rest[0] ?? null,
    step: oneOf<Step | "">(rest[1], ALL_STEPS, "") || null,
    tab: rest[2] ?? null,
    look: oneOf<Look | "">(query.get("look"), LOOKS, "") || null,
    scene: query.get("scene"),
    thing: thing ? { kind: thing[0] as Kind, id: thing[1] } : null,
    place: place && Number.isFinite(Number(place[1])) ? { track: place[0], at: Number(place[1]) } : null,
    finding: query.get("finding"),
  };
}

/** The address of what is on the bench just now. */
export function written(bench: Bench, layout: string | undefined): string {
  if (bench.page === "layouts") return "/layouts";
  if (bench.step === "sums" || !layout) return bench.step === "sums" ? "/sums" : "/";
  const tab = bench.tabs[bench.step];
  const query = new URLSearchParams();
  if (!NO_LOOK.includes(bench.step)) query.set("look", bench.look);
  if (bench.scene) query.set("scene", bench.scene);
  if (bench.selected) query.set("thing", `${bench.selected.kind}:${bench.selected.id}`);
  if (bench.picked) query.set("place", `${bench.picked.track}:${Math.round(bench.picked.at)}`);
  if (bench.finding) query.set("finding", bench.finding);
  const path = ["l", layout, bench.step, ...(tab ? [tab] : [])].map(encodeURIComponent).join("/");
  return `/${path}?${query}`;
}

const NO_LOOK: Step[] = ["brief", "trains", "book", "sums"];

/** What of an address makes a place of its own to come back to; what was clicked last does not. */
const station = (address: string) => {
  const url = new URL(address, location.origin);
  for (const passing of ["thing", "place", "finding"]) url.searchParams.delete(passing);
  return `${url.pathname}?${url.searchParams}`;
};
const here = () => `${location.pathname}${location.search}`;

/** The address this page wrote or read last. */
let own: string | null = null;

/** Whether the bench was last put in place by an address: setting that right makes no place of its own. */
let arrived = false;

/** Puts the bench where an address says. Answers what of it is no longer there, in words. */
function arrive(to: Address): string | null {
  const bench = useBench.getState();
  const document = useLayout.getState().state?.document;
  const part: Partial<Bench> = { page: to.page };
  if (to.step) part.step = to.step;
  if (to.step) {
    const { [to.step]: _, ...others } = bench.tabs;
    part.tabs = to.tab ? { ...others, [to.step]: to.tab } : others;
  }
  if (to.look) part.look = to.look;
  const gone: string[] = [];
  if (to.scene && document?.scenes?.[to.scene]) part.scene = to.scene;
  else if (to.scene && document) gone.push(`the scene ${to.scene}`);
  bench.set(part);
  const map = to.thing && (document?.[mapOf(to.thing.kind) as keyof typeof document] as object | undefined);
  const there = to.thing !== null && typeof map === "object" && map !== null && to.thing.id in map;
  if (to.thing && document && !there) gone.push(`the ${to.thing.kind} ${to.thing.id}`);
  const place = to.place && document?.tracks?.[to.place.track] ? to.place : null;
  if (to.place && document && !place) gone.push(`the track ${to.place.track}`);
  if (there || place) bench.show(there ? to.thing : null, place);
  else if (bench.selected || bench.picked) bench.set({ selected: null, chosen: [], picked: null, lit: [] });
  useBench.setState({ finding: to.finding });
  return gone.length ? `The link leads to ${gone.join(" and ")}, which this layout no longer has.` : null;
}

/** Opens what the address says, and says so where that is gone. */
export async function openAddress(): Promise<void> {
  const to = read(location.pathname, location.search, location.hash);
  const store = useLayout.getState();
  if (!store.state || (to.layout && to.layout !== store.state.id)) await store.open(to.layout);
  // Where the layout is gone, that was told, and the list of layouts stands open.
  if (to.layout && useLayout.getState().state?.id !== to.layout) return;
  arrived = true;
  const why = arrive(to);
  if (why) useLayout.setState({ trouble: { message: why } });
}

/** Keeps address and bench together, both ways: Back and Forward go through steps, tabs, looks and layouts. */
export function useAddress() {
  const [path] = useBrowserLocation();
  const search = useSearch();
  useEffect(() => {
    // Only where the person went; what this page wrote itself may be behind the bench by the time it is seen here.
    if (path + search === own) return;
    own = path + search;
    void openAddress();
  }, [path, search]);
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const write = () => {
      const { state, missing, opening } = useLayout.getState();
      if ((!state && !missing && useBench.getState().page === "bench") || opening) return;
      const to = written(useBench.getState(), state?.id);
      const replace = arrived || station(to) === station(here()) || location.pathname === "/";
      arrived = false;
      if (to === here()) return;
      own = to;
      navigate(to, { replace });
    };
    // A step and the look it brings along are one place, though they come one after the other.
    const soon = () => {
      clearTimeout(waiting);
      waiting = setTimeout(write, 30);
    };
    const stops = [useBench.subscribe(soon), useLayout.subscribe(soon)];
    return () => {
      clearTimeout(waiting);
      for (const stop of stops) stop();
    };
  }, []);
}

/** The link to what is on the bench just now, or to a thing of it. */
export const linkHere = (part: Partial<Bench> = {}) =>
  location.origin + written({ ...useBench.getState(), ...part }, useLayout.getState().state?.id);
