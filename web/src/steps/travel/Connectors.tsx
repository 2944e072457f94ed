import { Columns } from "../../parts/Columns";
import { nextNumber } from "../../parts/ids";
import { Typed } from "../../parts/Typed";
import { Whole } from "../../parts/Whole";
import { useLayout } from "../../store/layout";

const NAMES = [
  "Name",
  "Poles",
  "Amps a pole",
  "Thickest wire",
  "Ways to key it",
  "In the drawer",
  "In use",
  "May be bought",
  "A pair costs",
  "",
];

/** The connectors the club owns: what each kind holds, how it is keyed, and how many lie in the drawer. */
export function Connectors() {
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const kinds = Object.entries(layout?.connectors ?? {});
  const used = Object.values(layout?.couplings ?? {});
  const metric = layout?.brief?.units === "metric";
  const add = () => {
    const n = nextNumber("C", layout?.connectors);
    const value = { name: `Connector ${n}`, poles: 2, amps: 10, takes: metric ? "2.5 mm²" : "14 AWG", on_hand: 0 };
    void edit(`Connector ${n}`, [{ op: "add", path: `/connectors/C${n}`, value }]);
  };
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Connectors" data-testid="connectors">
      <p className="mb-2 flex flex-wrap items-center gap-3">
        <button type="button" className="btn" onClick={add}>
          One more kind
        </button>
        <span className="text-mute">Amps and wire as printed on it. A pair is both halves.</span>
      </p>
      {kinds.length ? (
        <table className="w-full max-w-[1080px]">
          <Columns names={NAMES} />
          <tbody>
            {kinds.map(([key, c]) => {
              const put = (field: string, value: unknown, words: string) =>
                edit(`${c.name}: ${words}`, [{ op: "add", path: `/connectors/${key}/${field}`, value }], true);
              const whole = (field: "poles" | "codings" | "on_hand", label: string, least: number, most: number) => (
                <Whole
                  label={`${label} of ${c.name}`}
                  hideLabel
                  value={c[field] ?? (field === "on_hand" ? 0 : field === "poles" ? 2 : 1)}
                  least={least}
                  most={most}
                  onTake={(n) => put(field, n, `${label.toLowerCase()} ${n}`)}
                />
              );
              const count = used.filter((u) => u.kind === key).length;
              return (
                <tr key={key} className="border-line border-b align-top">
                  <td className="w-44 py-1 pr-2">
                    <Typed
                      label={`Name of ${c.name}`}
                      hideLabel
                      kind="text"
                      shown={c.name}
                      onTake={(v) => put("name", v, String(v))}
                    />
                  </td>
                  <td className="w-16 py-1 pr-2">{whole("poles", "Poles", 1, 60)}</td>
                  <td className="w-20 py-1 pr-2">
                    <Typed
                      label={`Amps a pole of ${c.name}`}
                      hideLabel
                      kind="current"
                      shown={`${c.amps ?? 10} A`}
                      onTake={(v, t) => put("amps", v, t)}
                    />
                  </td>
                  <td className="w-24 py-1 pr-2">
                    <Typed
                      label={`Thickest wire of ${c.name}`}
                      hideLabel
                      kind="gauge"
                      shown={c.takes ?? ""}
                      onTake={(v, t) => put("takes", v, `takes ${t}`)}
                    />
                  </td>
                  <td className="w-20 py-1 pr-2">{whole("codings", "Ways to key", 1, 12)}</td>
                  <td className="w-20 py-1 pr-2">{whole("on_hand", "Pairs", 0, 2000)}</td>
                  <td className={`figure py-2 pr-2 ${count > (c.on_hand ?? 0) ? "text-oxide" : ""}`}>{count}</td>
                  <td className="py-2 pr-2">
                    <input
                      type="checkbox"
                      aria-label={`More ${c.name} may be bought`}
                      checked={c.buy ?? false}
                      onChange={(e) =>
                        void put("buy", e.target.checked, e.target.checked ? "may be bought" : "no more")
                      }
                    />
                  </td>
                  <td className="w-20 py-1 pr-2">
                    <Typed
                      label={`Price of ${c.name}`}
                      hideLabel
                      kind="text"
                      shown={c.price == null ? "" : String(c.price)}
                      placeholder="—"
                      clearable
                      onTake={async (v) => {
                        const n = v === null ? null : Number(String(v).replace(",", "."));
                        if (n !== null && !(n >= 0 && n <= 1000)) return "An amount from 0 to 1000.";
                        return put("price", n, n === null ? "no price" : `costs ${n}`);
                      }}
                    />
                  </td>
                  <td className="py-2">
                    {count ? (
                      <span className="text-mute text-xs">in use</span>
                    ) : (
                      <button
                        type="button"
                        className="act"
                        onClick={() => void edit(`${c.name} is gone`, [{ op: "remove", path: `/connectors/${key}` }])}
                      >
                        Take away<span className="sr-only"> {c.name}</span>
                      </button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ) : (
        <p className="max-w-2xl rounded-lg border border-line bg-paper p-2.5">
          No connector is listed. List the kinds in the club's drawer; then <b>Plug the joints</b> shares them out. Two
          that differ in volts never get the same kind keyed alike.
        </p>
      )}
    </section>
  );
}
