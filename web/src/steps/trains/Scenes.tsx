import { useState } from "react";
import { USES } from "../../parts/choices";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";
import { freeId } from "./ids";

type Placed = {
  train: string;
  doing?: "running" | "idling";
  circuits?: string[];
  uses?: string[];
  track?: string | null;
  at?: number | null;
};

/** Scenes: who runs, idles or stands parked where, at once. */
export function Scenes() {
  const layout = useLayout((s) => s.state?.document);
  const edit = useLayout((s) => s.edit);
  const { scene: chosen, set } = useBench();
  const scenes = Object.entries(layout?.scenes ?? {});
  const id = chosen && layout?.scenes?.[chosen] ? chosen : scenes[0]?.[0];
  const scene = id ? layout?.scenes?.[id] : undefined;
  const trains = Object.entries(layout?.trains ?? {});
  const [wrong, setWrong] = useState<string | null>(null);
  const put = async (placements: Placed[], words: string) => {
    setWrong(null);
    const why = await edit(
      `${scene?.name}: ${words}`,
      [{ op: "add", path: `/scenes/${id}/placements`, value: placements }],
      true,
    );
    setWrong(why);
  };
  const make = async (copy: boolean) => {
    const name = copy ? `${scene?.name} copy` : `Scene ${scenes.length + 1}`;
    const key = freeId(name, layout?.scenes);
    await edit(`Add ${name}`, [
      { op: "add", path: `/scenes/${key}`, value: { name, placements: copy ? scene?.placements : [] } },
    ]);
    set({ scene: key });
  };
  const placements = (scene?.placements ?? []) as Placed[];
  const free = trains.filter(([t]) => !placements.some((p) => p.train === t));
  const circuits = Object.entries(layout?.circuits ?? {}).filter(([, c]) => c.purpose !== "accessory");
  const used = new Set(Object.values(layout?.tracks ?? {}).map((t) => t.use ?? "main"));
  return (
    <section className="rounded-xl border border-line bg-card p-4" aria-label="Scenes">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="font-bold text-sm">Who is where, at once</h2>
        <select
          aria-label="Scene shown"
          className="field w-auto"
          value={id ?? ""}
          onChange={(event) => set({ scene: event.target.value })}
          disabled={!id}
        >
          {scenes.map(([key, s]) => (
            <option key={key} value={key}>
              {s.name}
            </option>
          ))}
        </select>
        <button type="button" className="btn" onClick={() => void make(false)}>
          New scene
        </button>
        {id ? (
          <>
            <button type="button" className="act text-xs" onClick={() => void make(true)}>
              Copy it
            </button>
            <button
              type="button"
              className="act text-xs"
              onClick={async () => {
                await edit(`Take ${scene?.name} away`, [{ op: "remove", path: `/scenes/${id}` }]);
                set({ scene: scenes.find(([k]) => k !== id)?.[0] ?? null });
              }}
            >
              Take it away
            </button>
          </>
        ) : null}
      </div>
      {!id ? (
        <p className="rounded-lg border border-line bg-paper p-2.5 text-xs">
          No scene yet. Without one every rail is judged with the house rule's test train alone.
        </p>
      ) : (
        <>
          <div className="mb-2 max-w-72">
            <Typed
              label="Name of the scene"
              kind="text"
              shown={scene?.name ?? ""}
              onTake={(v) => edit(`Scene: ${v}`, [{ op: "replace", path: `/scenes/${id}/name`, value: v }], true)}
            />
          </div>
          {wrong ? (
            <p role="alert" className="mb-2 text-oxide text-xs">
              {wrong}
            </p>
          ) : null}
          <ul className="grid gap-1.5">
            {placements.map((p, n) => {
              const name = layout?.trains?.[p.train]?.name ?? p.train;
              const change = (part: Partial<Placed>, words: string) =>
                void put(
                  placements.map((q, k) => (k === n ? { ...q, ...part } : q)),
                  `${name} ${words}`,
                );
              return (
                <li key={p.train} className="border-line border-t pt-1.5 text-xs" data-placed={p.train}>
                  <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
                    <b className="min-w-28">{name}</b>
                    <select
                      aria-label={`${name} does`}
                      className="field w-auto py-0 text-xs"
                      value={p.doing ?? "running"}
                      onChange={(e) => change({ doing: e.target.value as "running" }, e.target.value)}
                    >
                      <option value="running">runs</option>
                      <option value="idling">idles</option>
                    </select>
                    <select
                      aria-label={`${name} stands on`}
                      className="field w-auto max-w-44 py-0 text-xs"
                      value={p.track ?? ""}
                      onChange={(e) =>
                        e.target.value
                          ? change({ track: e.target.value, at: 0, circuits: [], uses: [] }, "parked")
                          : change({ track: null, at: null, circuits: circuits[0] ? [circuits[0][0]] : [] }, "roams")
                      }
                    >
                      <option value="">anywhere in…</option>
                      {Object.entries(layout?.tracks ?? {}).map(([t, v]) => (
                        <option key={t} value={t}>
                          on {v.name}
                        </option>
                      ))}
                    </select>
                    <span className="flex-1" />
                    <button
                      type="button"
                      className="act"
                      aria-label={`Take ${name} off the scene`}
                      onClick={() =>
                        void put(
                          placements.filter((_, k) => k !== n),
                          `without ${name}`,
                        )
                      }
                    >
                      ✕
                    </button>
                  </div>
                  {p.track ? null : (
                    <div className="mt-1 flex flex-wrap items-center gap-1">
                      <span className="text-[11px] text-mute">on track for</span>
                      {USES.filter((u) => used.has(u) || p.uses?.includes(u)).map((u) => (
                        <Chip
                          key={u}
                          name={u}
                          on={p.uses?.includes(u) ?? false}
                          onPress={(on) => {
                            const next = on ? (p.uses ?? []).filter((x) => x !== u) : [...(p.uses ?? []), u];
                            if (next.length || p.circuits?.length)
                              change({ uses: next }, `on ${next.join(", ") || "any track"}`);
                            else setWrong(`${name} must be somewhere: leave it one place, or take it off the scene.`);
                          }}
                        />
                      ))}
                      <span className="ml-1 text-[11px] text-mute">in</span>
                      {circuits.map(([c, v]) => (
                        <Chip
                          key={c}
                          name={v.name}
                          on={p.circuits?.includes(c) ?? false}
                          onPress={(on) => {
                            const next = on ? (p.circuits ?? []).filter((x) => x !== c) : [...(p.circuits ?? []), c];
                            if (next.length || p.uses?.length)
                              change({ circuits: next }, `in ${next.length || "all"} districts`);
                            else setWrong(`${name} must be somewhere: leave it one place, or take it off the scene.`);
                          }}
                        />
                      ))}
                    </div>
                  )}
                </li>
              );
            })}
          </ul>
          <div className="mt-2">
            <select
              aria-label="Add a train to the scene"
              className="field w-auto"
              value=""
              disabled={!free.length || !circuits.length}
              onChange={(event) =>
                void put(
                  [
                    ...placements,
                    { train: event.target.value, doing: "running", circuits: circuits[0] ? [circuits[0][0]] : [] },
                  ],
                  "one train more",
                )
              }
            >
              <option value="">
                {free.length
                  ? circuits.length
                    ? "Add a train…"
                    : "Place a source first"
                  : "All trains are in this scene"}
              </option>
              {free.map(([t, v]) => (
                <option key={t} value={t}>
                  {v.name}
                </option>
              ))}
            </select>
          </div>
        </>
      )}
    </section>
  );
}

function Chip({ name, on, onPress }: { name: string; on: boolean; onPress: (on: boolean) => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      className={`rounded-full border px-2 text-[11.5px] ${on ? "border-ink bg-strong text-onstrong" : "border-line bg-paper text-mute"}`}
      onClick={() => onPress(on)}
    >
      {name}
    </button>
  );
}
