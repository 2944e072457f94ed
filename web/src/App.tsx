import { useEffect } from "react";
import { Club } from "./shell/Club";
import { Empty } from "./shell/Empty";
import { Finder } from "./shell/Finder";
import { Header } from "./shell/Header";
import { useKeys } from "./shell/keys";
import { Trouble } from "./shell/Trouble";
import { WorkBus } from "./shell/WorkBus";
import { BookStep } from "./steps/book/BookStep";
import { BriefStep } from "./steps/brief/BriefStep";
import { DetectStep } from "./steps/detect/DetectStep";
import { ReverseStep } from "./steps/reverse/ReverseStep";
import { SignalStep } from "./steps/signal/SignalStep";
import { SumsStep } from "./steps/sums/SumsStep";
import { TableStep } from "./steps/table/TableStep";
import { TrackStep } from "./steps/track/TrackStep";
import { TrainsStep } from "./steps/trains/TrainsStep";
import { WireStep } from "./steps/wire/WireStep";
import { ZonesStep } from "./steps/zones/ZonesStep";
import { useBench } from "./store/bench";
import { useLayout } from "./store/layout";

const LOOK_FOR_OTHERS_MS = 4000;

export function App() {
  const { state, missing, open, refresh } = useLayout();
  const step = useBench((s) => s.step);
  const theme = useBench((s) => s.theme);
  const club = useBench((s) => s.club);
  useKeys();
  useEffect(() => {
    void open(new URLSearchParams(location.search).get("layout"));
    const timer = setInterval(() => document.visibilityState === "visible" && void refresh(), LOOK_FOR_OTHERS_MS);
    const back = () => void refresh();
    addEventListener("focus", back);
    return () => {
      clearInterval(timer);
      removeEventListener("focus", back);
    };
  }, [open, refresh]);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);

  const sums = step === "sums";
  return (
    <div className="grid h-full grid-cols-[104px_minmax(0,1fr)] grid-rows-[46px_minmax(0,1fr)] overflow-hidden">
      <Header />
      <WorkBus />
      <main className="min-h-0 min-w-0" id="work">
        {missing && !sums ? <Empty /> : null}
        {sums ? <SumsStep /> : null}
        {state && step === "brief" ? <BriefStep /> : null}
        {state && step === "track" ? <TrackStep /> : null}
        {state && step === "trains" ? <TrainsStep /> : null}
        {state && step === "zones" ? <ZonesStep /> : null}
        {state && step === "reverse" ? <ReverseStep /> : null}
        {state && step === "detect" ? <DetectStep /> : null}
        {state && step === "signal" ? <SignalStep /> : null}
        {state && step === "wire" ? <WireStep /> : null}
        {state && step === "table" ? <TableStep /> : null}
        {state && step === "book" ? <BookStep /> : null}
        {!state && !missing && !sums ? <p className="p-6 text-mute">Opening the layout…</p> : null}
      </main>
      <Finder />
      {club ? <Club side={club} /> : null}
      <Trouble />
    </div>
  );
}
