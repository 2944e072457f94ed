import { type ComponentType, lazy, Suspense, useEffect } from "react";
import { useNarrow } from "./parts/useNarrow";
import { useAddress } from "./shell/address";
import { Club } from "./shell/Club";
import { Empty } from "./shell/Empty";
import { Finder } from "./shell/Finder";
import { Header } from "./shell/Header";
import { useKeys } from "./shell/keys";
import { useLive } from "./shell/live";
import { NewLayoutSheet } from "./shell/NewLayout";
import { Purpose } from "./shell/Purpose";
import { Reader } from "./shell/Reader";
import { Trouble } from "./shell/Trouble";
import { WorkBus } from "./shell/WorkBus";
import { WireStep } from "./steps/wire/WireStep";
import { type Step, useBench } from "./store/bench";
import { useLayout } from "./store/layout";

/** Pages fetched when they are first turned to, or soon after the first one stands: the program may be stopped later. */
const later: (() => Promise<unknown>)[] = [];
function page<Name extends string>(load: () => Promise<Record<Name, ComponentType>>, name: Name) {
  later.push(load);
  return lazy(async () => ({ default: (await load())[name] }));
}
const BenchStep = page(() => import("./steps/bench/BenchStep"), "BenchStep");
const CabsStep = page(() => import("./steps/cabs/CabsStep"), "CabsStep");
const BookStep = page(() => import("./steps/book/BookStep"), "BookStep");
const BriefStep = page(() => import("./steps/brief/BriefStep"), "BriefStep");
const DetectStep = page(() => import("./steps/detect/DetectStep"), "DetectStep");
const RehearseStep = page(() => import("./steps/rehearse/RehearseStep"), "RehearseStep");
const ReverseStep = page(() => import("./steps/reverse/ReverseStep"), "ReverseStep");
const SignalStep = page(() => import("./steps/signal/SignalStep"), "SignalStep");
const SumsStep = page(() => import("./steps/sums/SumsStep"), "SumsStep");
const TableStep = page(() => import("./steps/table/TableStep"), "TableStep");
const TrackStep = page(() => import("./steps/track/TrackStep"), "TrackStep");
const TravelStep = page(() => import("./steps/travel/TravelStep"), "TravelStep");
const TrainsStep = page(() => import("./steps/trains/TrainsStep"), "TrainsStep");
const ZonesStep = page(() => import("./steps/zones/ZonesStep"), "ZonesStep");
const Layouts = page(() => import("./layouts/Layouts"), "Layouts");

const STEPS: Record<Step, ComponentType> = {
  brief: BriefStep,
  track: TrackStep,
  reverse: ReverseStep,
  trains: TrainsStep,
  zones: ZonesStep,
  cabs: CabsStep,
  detect: DetectStep,
  signal: SignalStep,
  wire: WireStep,
  table: TableStep,
  travel: TravelStep,
  rehearse: RehearseStep,
  book: BookStep,
  bench: BenchStep,
  sums: SumsStep,
};
/** Other windows are heard of at once; this is for when the line was down. */
const FETCH_THE_REST_MS = 1500;
const LOOK_FOR_OTHERS_MS = 15_000;

export function App() {
  const { state, missing, refresh } = useLayout();
  const page = useBench((s) => s.page);
  const step = useBench((s) => s.step);
  const theme = useBench((s) => s.theme);
  const club = useBench((s) => s.club);
  const beginning = useBench((s) => s.beginning);
  useKeys();
  useAddress();
  useLive();
  useEffect(() => {
    const timer = setInterval(() => document.visibilityState === "visible" && void refresh(), LOOK_FOR_OTHERS_MS);
    const back = () => void refresh();
    addEventListener("focus", back);
    return () => {
      clearInterval(timer);
      removeEventListener("focus", back);
    };
  }, [refresh]);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);

  const here = state !== null || missing;
  useEffect(() => {
    if (!here) return;
    const soon = setTimeout(() => void Promise.allSettled(later.map((load) => load())), FETCH_THE_REST_MS);
    return () => clearTimeout(soon);
  }, [here]);

  const narrow = useNarrow();
  if (narrow && page === "bench" && !missing)
    return (
      <>
        <Reader />
        <Finder />
        <Trouble />
      </>
    );
  const sums = step === "sums";
  const View = STEPS[step];
  return (
    <div className="grid h-full grid-cols-[104px_minmax(0,1fr)] grid-rows-[46px_minmax(0,1fr)] overflow-hidden">
      <Header />
      <WorkBus />
      <main className="relative flex min-h-0 min-w-0 flex-col" id="work">
        {page === "bench" && state && !sums ? <Purpose /> : null}
        <div className="min-h-0 flex-1">
          <Suspense fallback={null}>
            {page === "layouts" ? (
              <Layouts />
            ) : sums ? (
              <SumsStep />
            ) : missing ? (
              <Empty />
            ) : state ? (
              <View />
            ) : (
              <p className="p-6 text-mute">Opening the layout…</p>
            )}
          </Suspense>
        </div>
      </main>
      <Finder />
      {club ? <Club side={club} /> : null}
      {beginning ? <NewLayoutSheet onClose={() => useBench.getState().set({ beginning: false })} /> : null}
      <Trouble />
    </div>
  );
}
