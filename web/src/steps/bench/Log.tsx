import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import type { Shape } from "../../api/client";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { bound } from "../../parts/bound";
import { SortHeads, useSorted } from "../../parts/Sorted";
import { useProving } from "../../store/proving";
import { useReadings, useTests } from "./queries";

type Row = Shape["ReadingShape"];
const HEADS: readonly (readonly [keyof Row & string, string])[] = [
  ["done", "When"],
  ["test", "Test"],
  ["shown", "Read"],
  ["foretold", "Foretold then"],
  ["verdict", "Verdict"],
  ["who", "Who"],
  ["revision", "Change"],
];

/** Every reading that was kept, newest first; as a table both ways. */
export function Log() {
  const { id, scene } = useWhere();
  const { data: readings } = useReadings();
  const { data: bench } = useTests();
  const chosen = useProving((s) => s.test);
  const set = useProving((s) => s.set);
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const [said, setSaid] = useState<string | null>(null);
  const { sorted, ...order } = useSorted<Row>("readings", readings ?? [], "done");
  const titles = new Map(bench?.tests.map((t) => [t.key, t.title]));
  const take = async (picked: File) => {
    try {
      const bytes = new Uint8Array(await picked.arrayBuffer());
      let text = "";
      for (const byte of bytes) text += String.fromCharCode(byte);
      const taken = await answer(
        api.POST("/api/layouts/{layout_id}/readings/file", {
          params: { path: { layout_id: id }, query: { scene } },
          body: { name: picked.name, base64: btoa(text) },
        }),
      );
      const refused = taken.refused[0];
      setSaid(
        `${taken.readings.length} readings taken${refused ? `, ${taken.refused.length} not: ${refused.why}` : "."}`,
      );
      for (const key of ["bench", "learned", "readings", "offer"]) void client.invalidateQueries({ queryKey: [key] });
    } catch (error) {
      setSaid((error as Error).message);
    }
  };
  return (
    <section aria-label="Readings" className="min-h-0 overflow-auto">
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3 pb-1.5 text-xs">
        <a className="act" href={`/api/layouts/${id}/files/readings.csv`}>
          As CSV
        </a>
        <a className="act" href={`/api/layouts/${id}/files/readings.xlsx`}>
          As workbook
        </a>
        <button type="button" className="act" onClick={() => file.current?.click()}>
          Take in a table…
        </button>
        <input
          ref={file}
          type="file"
          accept=".csv,.xlsx"
          className="sr-only"
          tabIndex={-1}
          aria-label="A table of readings"
          onChange={(e) => {
            const picked = e.target.files?.[0];
            e.target.value = "";
            if (picked) void take(picked);
          }}
        />
        {said ? <span role="status">{bound(said)}</span> : null}
      </p>
      {readings?.length ? (
        <table className="w-full text-[12px]" data-testid="readings">
          <SortHeads<Row> heads={HEADS} {...order} />
          <tbody>
            {sorted.map((r) => (
              <tr key={r.id} className={`border-line border-b ${r.test === chosen ? "bg-board" : ""}`}>
                <td className="whitespace-nowrap px-2 py-1">{new Date(r.done).toLocaleString()}</td>
                <td className="px-2">
                  <button type="button" className="act text-left" onClick={() => set({ test: r.test })}>
                    {bound(titles.get(r.test) ?? `${r.test}, not on the layout now`)}
                  </button>
                </td>
                <td className="figure whitespace-nowrap px-2">{bound(r.shown)}</td>
                <td className="figure px-2">{bound(r.foretold)}</td>
                <td className={`px-2 ${r.sound === false ? "text-oxide" : ""}`}>{bound(r.verdict)}</td>
                <td className="px-2">{r.who}</td>
                <td className="figure px-2">{r.revision}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="p-3 text-mute">
          No reading is kept yet. What is typed under Prove, here or on a phone under the boards, stands in this list.
        </p>
      )}
    </section>
  );
}
