import "uplot/dist/uPlot.min.css";
import { useEffect, useRef } from "react";
import uPlot from "uplot";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useProving } from "../../store/proving";
import { useReadings, useTests } from "./queries";

const HIGH = 130;
const css = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** The readings of the test in hand over the years, with the band that was foretold each time. */
export function History() {
  const { data: readings } = useReadings();
  const { data: bench } = useTests();
  const key = useProving((s) => s.test);
  const theme = useBench((s) => s.theme);
  const box = useRef<HTMLDivElement>(null);
  const test = bench?.tests.find((t) => t.key === key);
  const mine = (readings ?? []).filter((r) => r.test === key && r.value !== null).reverse();
  const told = mine.map((r) => [Date.parse(r.done) / 1000, r.value, r.low, r.high] as const);
  const marks = JSON.stringify(told);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme changes what the inks are
  useEffect(() => {
    const rows = JSON.parse(marks) as [number, number, number | null, number | null][];
    if (!box.current || rows.length < 2) return;
    const ink = css("--mute");
    const axis = { stroke: ink, grid: { stroke: css("--line"), width: 1 }, font: "10px sans-serif" };
    const plot = new uPlot(
      {
        width: box.current.clientWidth,
        height: HIGH,
        legend: { show: false },
        cursor: { show: false },
        axes: [{ ...axis }, { ...axis, size: 46 }],
        series: [
          {},
          { stroke: css("--copper"), width: 2, points: { show: true, size: 7, fill: css("--card") } },
          { stroke: css("--verd"), width: 1, dash: [4, 3], points: { show: false } },
          { stroke: css("--verd"), width: 1, dash: [4, 3], points: { show: false } },
        ],
      },
      [rows.map((r) => r[0]), rows.map((r) => r[1]), rows.map((r) => r[2]), rows.map((r) => r[3])],
      box.current,
    );
    return () => plot.destroy();
  }, [marks, theme]);
  if (!test) return null;
  const first = mine[0];
  const last = mine[mine.length - 1];
  const words = first && last ? `${mine.length} readings, from ${first.shown} to ${last.shown}` : "no reading yet";
  return (
    <section className="mt-3" aria-label="Over the years">
      <h3 className="font-semibold">{bound(test.title)}</h3>
      <p className="text-mute text-xs">{bound(words)}.</p>
      {mine.length > 1 ? (
        <div ref={box} role="img" aria-label={`${test.title} over the years: ${words}`} className="mt-1" />
      ) : (
        <p className="text-[11px] text-mute">With a second reading the years are drawn here.</p>
      )}
    </section>
  );
}
