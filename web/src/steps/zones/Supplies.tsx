import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { useWhere } from "../../api/queries";
import { Preview } from "../../findings/Preview";
import { bound } from "../../parts/bound";
import { nextNumber } from "../../parts/ids";
import { Typed } from "../../parts/Typed";
import { useLayout } from "../../store/layout";

const KINDS = ["dc", "ac"] as const;
const WORDS = { dc: "DC", ac: "AC" } as const;
const NOTHING = "nothing";

/** The supplies the club owns, by label and by measure, and which box each serves. */
export function Supplies() {
  const { id, revision, scene } = useWhere();
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const [asked, setAsked] = useState(false);
  const [making, setMaking] = useState(false);
  const supplies = Object.entries(layout?.supplies ?? {});
  const boxes = Object.entries(layout?.devices ?? {}).filter(([, d]) =>
    ["station", "booster", "cab", "transformer output"].includes(d.kind),
  );
  const { data, error } = useQuery({
    queryKey: ["supplying", id, revision, scene],
    enabled: asked && supplies.length > 0,
    retry: false,
    queryFn: () =>
      answer(
        api.GET("/api/layouts/{layout_id}/supplying", {
          params: { path: { layout_id: id }, query: { revision, scene } },
        }),
      ),
  });
  const add = () => {
    const n = nextNumber("PSU", Object.fromEntries(supplies));
    void edit(`Supply ${n}`, [
      {
        op: "add",
        path: `/supplies/PSU${n}`,
        value: { name: `Supply ${n}`, kind: "dc", volts: 15, amps: 5 },
      },
    ]);
  };
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Supplies" data-testid="supplies">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <button type="button" className="btn" onClick={add}>
          One more supply
        </button>
        <button
          type="button"
          className="btn-main"
          disabled={!supplies.length}
          onClick={() => {
            setAsked(true);
            setMaking(true);
          }}
        >
          Share them out
        </button>
        <span className="text-mute">Read each label; mains leads are for whoever is licensed for them.</span>
      </div>
      {supplies.length ? (
        <table className="w-full max-w-[1000px]">
          <thead className="text-left text-[11px] text-mute">
            <tr>
              {["Name", "Gives", "Volts, label", "measured", "Amps, label", "measured", "Isolated", "Serves", ""].map(
                (h, k) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: two columns are called measured
                  <th key={k} className="border-line border-b py-1 pr-2 font-medium">
                    {h}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {supplies.map(([key, s]) => {
              const put = (field: string, value: unknown, words: string) =>
                edit(`${s.name}: ${words}`, [{ op: "add", path: `/supplies/${key}/${field}`, value }], true);
              const cell = (field: "volts" | "amps" | "measured_volts" | "measured_amps", label: string) => (
                <Typed
                  label={`${label} of ${s.name}`}
                  hideLabel
                  kind={field.endsWith("volts") ? "volts" : "current"}
                  shown={s[field] ? `${s[field]} ${field.endsWith("volts") ? "V" : "A"}` : ""}
                  placeholder="—"
                  clearable={field.startsWith("measured")}
                  onTake={(v, t) => put(field, v, `${label.toLowerCase()} ${t || "not known"}`)}
                />
              );
              return (
                <tr key={key} className="border-line border-b">
                  <td className="w-44 py-1 pr-2">
                    <Typed
                      label={`Name of ${s.name}`}
                      hideLabel
                      kind="text"
                      shown={s.name}
                      onTake={(v) => put("name", v, String(v))}
                    />
                  </td>
                  <td className="pr-2">
                    <select
                      aria-label={`What ${s.name} gives`}
                      className="field w-auto"
                      value={s.kind ?? "dc"}
                      onChange={(e) => void put("kind", e.target.value, e.target.value)}
                    >
                      {KINDS.map((k) => (
                        <option key={k} value={k}>
                          {WORDS[k]}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td className="w-20 pr-2">{cell("volts", "Volts")}</td>
                  <td className="w-20 pr-2">{cell("measured_volts", "Volts measured")}</td>
                  <td className="w-20 pr-2">{cell("amps", "Amps")}</td>
                  <td className="w-20 pr-2">{cell("measured_amps", "Amps measured")}</td>
                  <td className="pr-2">
                    <select
                      aria-label={`Isolation of ${s.name}`}
                      className="field w-auto"
                      value={s.isolated === true ? "yes" : s.isolated === false ? "no" : "?"}
                      onChange={(e) =>
                        void put(
                          "isolated",
                          { yes: true, no: false }[e.target.value] ?? null,
                          `isolated: ${e.target.value}`,
                        )
                      }
                    >
                      <option value="?">not known</option>
                      <option value="yes">yes</option>
                      <option value="no">no</option>
                    </select>
                  </td>
                  <td className="pr-2">
                    <select
                      aria-label={`What ${s.name} serves`}
                      className="field w-auto"
                      value={s.serves ?? ""}
                      onChange={(e) =>
                        void put(
                          "serves",
                          e.target.value || null,
                          `serves ${layout?.devices?.[e.target.value]?.name ?? NOTHING}`,
                        )
                      }
                    >
                      <option value="">{NOTHING}</option>
                      {boxes.map(([i, d]) => (
                        <option key={i} value={i}>
                          {d.name}
                        </option>
                      ))}
                    </select>
                  </td>
                  <td>
                    <button
                      type="button"
                      className="act"
                      onClick={() => void edit(`${s.name} is gone`, [{ op: "remove", path: `/supplies/${key}` }])}
                    >
                      Take away
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ) : (
        <p className="max-w-2xl rounded-lg border border-line bg-paper p-2.5">
          No supply is listed. List what the club owns, by its labels; then <b>Share them out</b> gives the strongest to
          where most is asked and never more volts than a box stands (on its card: “Its input stands”).
        </p>
      )}
      {error ? (
        <p role="alert" className="mt-2 text-oxide text-xs">
          {(error as Error).message}
        </p>
      ) : null}
      {asked && data ? (
        <div className="mt-2.5 max-w-[1000px]" data-testid="shared">
          <ul className="grid gap-0.5">
            {data.matches.map((m) => (
              <li key={m.device} className={m.short ? "text-oxide" : ""}>
                <b>{m.name}</b>, asked for {bound(m.asked_text)}: {m.supply ?? "no supply"} — {bound(m.words)}
              </li>
            ))}
          </ul>
          {data.ladder.map((l) => (
            <p key={l} className="mt-1">
              {bound(l)}
            </p>
          ))}
          {data.change ? (
            making ? (
              <Preview
                title="Which supply serves which box; what each gives is then bounded by its supply."
                mend={data.change}
                onClose={() => setMaking(false)}
              />
            ) : (
              <button type="button" className="act mt-1" onClick={() => setMaking(true)}>
                Take it over…
              </button>
            )
          ) : (
            <p className="mt-1 text-mute">They are shared out so already.</p>
          )}
        </div>
      ) : null}
    </section>
  );
}
