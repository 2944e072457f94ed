import { useState } from "react";
import type { Shape } from "../../api/client";
import { useDetection, useMoment } from "../../api/queries";
import { bound } from "../../parts/bound";
import { SortHeads, useSorted } from "../../parts/Sorted";
import { useBench } from "../../store/bench";

type Row = Shape["SensedShape"];
const HEADS: readonly (readonly [keyof Row, string])[] = [
  ["name", "Section"],
  ["block", "Block"],
  ["address", "Address"],
  ["board_name", "Board · channel"],
  ["district", "District"],
  ["length", "Track"],
  ["home_text", "Wire home"],
  ["sees", "Sees"],
  ["misses", "Not sure of"],
];

/** Every detection section: what reports it, and what its detector sees. */
export function Sections() {
  const { data } = useDetection();
  const moment = useMoment();
  const show = useBench((s) => s.show);
  const [dark, setDark] = useState(false);
  const { sorted: rows, ...order } = useSorted<Row>(
    "detection",
    (data?.sections ?? []).filter((s) => dark || s.board !== null),
    "address",
  );
  if (!data) return <p className="p-4 text-mute">Working out what is watched…</p>;
  const on = new Set(moment?.lit ?? []);
  if (data.boards.length === 0 && !dark)
    return (
      <p className="p-4 text-mute">
        No section is detected yet. Choose what you wish beside the plan and press <b>Block it</b>; or, for one stretch,
        step Track, tool Detector channel.{" "}
        <button type="button" className="act" onClick={() => setDark(true)}>
          List the stretches there are
        </button>
      </p>
    );
  return (
    <table className="w-full text-[12px]" data-testid="detection-sections">
      <SortHeads<Row> heads={HEADS} {...order} />
      <tbody>
        {rows.map((r) => (
          <tr
            key={r.number}
            className={`border-line border-b ${on.has(r.number) ? "bg-amber/25" : ""}`}
            data-lit={on.has(r.number) ? "yes" : "no"}
          >
            <td className="px-2 py-1">
              <button
                type="button"
                className="act text-left"
                onClick={() =>
                  show(
                    r.section ? { kind: "section", id: r.section } : { kind: "track", id: r.track },
                    { track: r.track, at: r.at },
                    r.tracks,
                  )
                }
              >
                {r.name}
              </button>
              {on.has(r.number) ? <span className="ml-1.5 text-[11px]">occupied</span> : null}
            </td>
            <td className="px-2 text-mute">{r.block === r.name ? "" : (r.block ?? "")}</td>
            <td className="figure px-2">{r.address ?? "—"}</td>
            <td className="whitespace-nowrap px-2">
              {r.board_name ?? "no detector"}
              {r.channel ? <span className="figure text-mute"> · {r.channel}</span> : null}
            </td>
            <td className="px-2">{r.district ?? ""}</td>
            <td className="figure whitespace-nowrap px-2">{bound(r.length_text)}</td>
            <td className="figure whitespace-nowrap px-2">{bound(r.home_text)}</td>
            <td className="min-w-[11.5em] px-2">{r.sees}</td>
            <td className="px-2 text-mute">
              {r.misses}
              {r.fooled ? <span className="text-link"> fooled by {r.fooled}</span> : null}
            </td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={HEADS.length} className="px-2 py-1.5">
            <label className="flex items-center gap-1.5 text-mute text-xs">
              <input type="checkbox" checked={dark} onChange={(e) => setDark(e.target.checked)} />
              Also stretches without a detector
            </label>
          </td>
        </tr>
      </tfoot>
    </table>
  );
}
