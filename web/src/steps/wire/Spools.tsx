import { useState } from "react";
import { useGauges } from "../../api/queries";
import { WIRE_COLOURS } from "../../parts/Swatch";
import { Typed } from "../../parts/Typed";
import { lengthText } from "../../parts/units";
import { useLayout } from "../../store/layout";

/** Spools the club owns or may buy: what there is to choose from, and what it costs. */
export function Spools() {
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const { data } = useGauges();
  const [gauge, setGauge] = useState("");
  const [wrong, setWrong] = useState<string | null>(null);
  const metric = layout?.brief?.units === "metric";
  const options = (metric ? data?.metric : data?.imperial) ?? [];
  const spools = Object.entries(layout?.spools ?? {});
  const per = metric ? 1 : 0.3048;
  const put = (key: string, field: string, value: unknown, words: string) =>
    edit(
      `Spool ${layout?.spools?.[key]?.gauge}: ${words}`,
      [{ op: "add", path: `/spools/${key}/${field}`, value }],
      true,
    );
  const add = async () => {
    const numbers = spools.map(([k]) => Number(/\d+/.exec(k)?.[0] ?? 0));
    const key = `spool${Math.max(0, ...numbers) + 1}`;
    setWrong(
      await edit(
        `Spool of ${gauge || options[0]}`,
        [{ op: "add", path: `/spools/${key}`, value: { gauge: gauge || options[0] } }],
        true,
      ),
    );
  };
  return (
    <div className="mt-3" data-testid="spools">
      <h3 className="font-semibold text-xs">Spools to choose from</h3>
      {spools.length ? (
        <table>
          <thead className="text-left text-[11px] text-mute">
            <tr>
              {[
                "Gauge",
                "Colour",
                "On hand, one conductor",
                metric ? "Price a metre" : "Price a foot",
                "May be bought",
                "",
              ].map((h) => (
                <th key={h} className="py-0.5 pr-2 font-medium">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {spools.map(([key, s]) => (
              <tr key={key} data-spool={s.gauge}>
                <td className="figure pr-3">{s.gauge}</td>
                <td className="w-24 pr-2">
                  <select
                    aria-label={`Colour of the spool of ${s.gauge}`}
                    className="field"
                    value={s.colour ?? ""}
                    onChange={(e) =>
                      void put(key, "colour", e.target.value || null, e.target.value || "a colour not said")
                    }
                  >
                    <option value="">any</option>
                    {WIRE_COLOURS.map((c) => (
                      <option key={c}>{c}</option>
                    ))}
                  </select>
                </td>
                <td className="w-32 pr-2">
                  <Typed
                    label="On hand"
                    hideLabel
                    kind="length"
                    shown={s.on_hand ? lengthText(s.on_hand, metric) : ""}
                    placeholder="none"
                    clearable
                    onTake={(v, t) => put(key, "on_hand", v ?? 0, `${t || "none"} on hand`)}
                  />
                </td>
                <td className="w-28 pr-2">
                  <Typed
                    label="Price"
                    hideLabel
                    kind="text"
                    shown={s.price === null || s.price === undefined ? "" : (s.price * per).toFixed(2)}
                    placeholder="not known"
                    clearable
                    onTake={(v) => {
                      if (v === null) return put(key, "price", null, "price not known");
                      const n = Number(String(v).replace(",", "."));
                      return Number.isFinite(n) && n >= 0 && n <= 300
                        ? put(key, "price", n / per, `price ${n}`)
                        : Promise.resolve("A price, such as 0.35.");
                    }}
                  />
                </td>
                <td className="pr-2">
                  <input
                    type="checkbox"
                    aria-label={`${s.gauge} may be bought`}
                    checked={s.buy ?? true}
                    onChange={(e) =>
                      void put(key, "buy", e.target.checked, e.target.checked ? "may be bought" : "only what is there")
                    }
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="act"
                    aria-label={`Take the spool of ${s.gauge} away`}
                    onClick={() =>
                      void edit(`Take the spool of ${s.gauge} away`, [{ op: "remove", path: `/spools/${key}` }])
                    }
                  >
                    ✕
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="text-mute">None entered: the usual gauges are taken, 18 to 10 AWG or 0.75 to 4 mm².</p>
      )}
      <div className="mt-1 flex items-center gap-2">
        <select
          aria-label="Gauge of the spool"
          className="field w-auto"
          value={gauge}
          onChange={(e) => setGauge(e.target.value)}
        >
          {options.map((o) => (
            <option key={o}>{o}</option>
          ))}
        </select>
        <button type="button" className="btn" onClick={() => void add()}>
          Add a spool
        </button>
        {wrong ? (
          <span role="alert" className="text-oxide">
            {wrong}
          </span>
        ) : null}
      </div>
    </div>
  );
}
