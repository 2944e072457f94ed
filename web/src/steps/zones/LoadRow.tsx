import type { Layout, Shape } from "../../api/client";
import { Typed } from "../../parts/Typed";
import { Whole } from "../../parts/Whole";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { amps } from "../trains/ids";

type Load = NonNullable<Layout["loads"]>[string];
type Props = {
  id: string;
  load: Load;
  shape: Shape["LoadShape"] | undefined;
  circuits: [string, NonNullable<Layout["circuits"]>[string]][];
  onWrong: (why: string | null) => void;
};

const FIGURES = [
  ["amps", "current", "At rest, each", "at rest"],
  ["working_amps", "current", "At work, each", "at work"],
  ["least_volts", "volts", "Least volts", "wanted"],
  ["most_volts", "volts", "Most volts", "at most"],
] as const;

/** One kind of accessory in the table, every figure typed in place, with the volts that reach it. */
export function LoadRow({ id, load, shape, circuits, onWrong }: Props) {
  const edit = useLayout((s) => s.edit);
  const draw = useLayout((s) => s.draw);
  const { set, show, selected } = useBench();
  const put = (field: string, value: unknown, words: string) =>
    edit(`${load.name}: ${words}`, [{ op: "add", path: `/loads/${id}/${field}`, value }], true);
  const volts = (v: number | null | undefined) => (v ? `${v} V` : "");
  const cell = "py-1 pr-1 align-top";
  return (
    <tr className={`border-line border-b ${selected?.id === id ? "bg-board" : ""}`} data-load={id}>
      <td className={`${cell} min-w-32`}>
        <Typed label="What" hideLabel kind="text" shown={load.name} onTake={(v) => put("name", v, String(v))} />
        <span className="text-[11px] text-mute">{load.kind}</span>
      </td>
      <td className={cell}>
        <select
          aria-label={`${load.name} hangs on`}
          className="field w-26"
          value={load.circuit}
          onChange={async (e) =>
            onWrong(
              await edit(
                `${load.name} to another circuit`,
                [
                  { op: "replace", path: `/loads/${id}/circuit`, value: e.target.value },
                  { op: "add", path: `/loads/${id}/terminal`, value: null },
                ],
                true,
              ),
            )
          }
        >
          {circuits.map(([key, c]) => (
            <option key={key} value={key}>
              {c.name}
            </option>
          ))}
        </select>
      </td>
      <td className={`${cell} min-w-13`}>
        <Whole
          hideLabel
          label="How many"
          value={load.count ?? 1}
          least={1}
          onTake={(n) => put("count", n, `${n} of them`)}
        />
      </td>
      <td className={`${cell} min-w-13`}>
        <Whole hideLabel label="At once" value={load.at_once ?? 0} onTake={(n) => put("at_once", n, `${n} at once`)} />
      </td>
      {FIGURES.map(([field, kind, label, words]) => (
        <td key={field} className={`${cell} ${kind === "volts" ? "min-w-15" : "min-w-18"}`}>
          <Typed
            label={label}
            hideLabel
            kind={kind}
            shown={kind === "volts" ? volts(load[field]) : amps(load[field] ?? 0)}
            clearable={kind === "volts"}
            placeholder={kind === "volts" ? "any" : undefined}
            onTake={(v, t) => put(field, v, `${t || "any volts"} ${words}`)}
          />
        </td>
      ))}
      <td className={`${cell} whitespace-nowrap`}>
        <b className={`figure ${shape && !shape.ok ? "text-oxide" : ""}`}>
          {shape?.work_text ?? "…"}
          {shape && !shape.ok ? `, ${shape.why}` : ""}
        </b>
        <br />
        <span className="text-[11px] text-mute">
          tied {shape?.tied === "at its supply" ? "at its supply" : `at ${shape?.tied ?? "…"}`}
        </span>
      </td>
      <td className={`${cell} whitespace-nowrap text-[11.5px]`}>
        <button type="button" className="act" onClick={() => set({ placing: { what: "load", id } })}>
          {load.at ? "Move" : "Place"}
        </button>
        {load.at ? (
          <button type="button" className="act ml-1.5" onClick={() => show({ kind: "load", id }, null)}>
            Show
          </button>
        ) : null}
        <button
          type="button"
          className="act ml-1.5"
          aria-label={`Take ${load.name} away`}
          onClick={async () => onWrong((await draw({ act: "erase", things: [{ kind: "load", id }] })).why)}
        >
          ✕
        </button>
      </td>
    </tr>
  );
}
