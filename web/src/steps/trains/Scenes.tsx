import { useState } from "react";
import { USES } from "../../parts/choices";
import { freeId } from "../../parts/ids";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

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
  const columns = [
    ...USES.filter((u) => used.has(u) || placements.some((p) => p.uses?.includes(u))).map((u, n) => ({
      key: `use ${u}`,
      kind: "uses" as const,
      id: u as string,
      name: u as string,
      first: n === 0,
    })),
    ...circuits.map(([c, v], n) => ({
      key: `circuit ${c}`,
      kind: "circuits" as const,
      id: c,
      name: v.name,
      first: n === 0,
    })),
  ];
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
          {placements.length ? (
            <div className="overflow-x-auto">
              <table className="text-xs" data-testid="matrix">
                <thead>
                  <tr className="align-bottom">
                    <th className="pr-3 pb-1 text-left font-medium text-mute">Train</th>
                    <th className="pb-1 text-left font-medium text-mute">Does</th>
                    <th className="px-2 pb-1 text-left font-medium text-mute">Stands</th>
                    {columns.map(({ key, name, first }) => (
                      <th key={key} className={`h-36 w-7 ${first ? "border-line border-l" : ""}`}>
                        <span className="block h-36 w-7 rotate-180 truncate py-1 text-left font-medium text-[11px] text-mute [writing-mode:vertical-rl]">
                          {name}
                        </span>
                      </th>
                    ))}
                    <th>
                      <span className="sr-only">Off the scene</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {placements.map((p, n) => {
                    const name = layout?.trains?.[p.train]?.name ?? p.train;
                    const change = (part: Partial<Placed>, words: string) =>
                      void put(
                        placements.map((q, k) => (k === n ? { ...q, ...part } : q)),
                        `${name} ${words}`,
                      );
                    const turn = (kind: "uses" | "circuits", id: string) => {
                      const now = p[kind] ?? [];
                      const next = now.includes(id) ? now.filter((x) => x !== id) : [...now, id];
                      const other = kind === "uses" ? p.circuits : p.uses;
                      if (!next.length && !other?.length)
                        return setWrong(`${name} must be somewhere: leave it one place, or take it off the scene.`);
                      change(
                        { [kind]: next },
                        kind === "uses"
                          ? `on ${next.join(", ") || "any track"}`
                          : `in ${next.length || "all"} districts`,
                      );
                    };
                    return (
                      <tr key={p.train} className="border-line border-t" data-placed={p.train}>
                        <th className="whitespace-nowrap pr-3 text-left font-semibold">{name}</th>
                        <td>
                          <select
                            aria-label={`${name} does`}
                            className="field w-auto py-0 text-xs"
                            value={p.doing ?? "running"}
                            onChange={(e) => change({ doing: e.target.value as "running" }, e.target.value)}
                          >
                            <option value="running">runs</option>
                            <option value="idling">idles</option>
                          </select>
                        </td>
                        <td className="px-2">
                          <select
                            aria-label={`${name} stands on`}
                            className="field w-32 py-0 text-xs"
                            value={p.track ?? ""}
                            onChange={(e) =>
                              e.target.value
                                ? change({ track: e.target.value, at: 0, circuits: [], uses: [] }, "parked")
                                : change(
                                    { track: null, at: null, circuits: circuits[0] ? [circuits[0][0]] : [] },
                                    "roams",
                                  )
                            }
                          >
                            <option value="">anywhere in…</option>
                            {Object.entries(layout?.tracks ?? {}).map(([t, v]) => (
                              <option key={t} value={t}>
                                on {v.name}
                              </option>
                            ))}
                          </select>
                        </td>
                        {columns.map(({ key, kind, id: column, name: called, first }) => (
                          <td key={key} className={`text-center ${first ? "border-line border-l" : ""}`}>
                            {p.track ? null : (
                              <Cell
                                name={called}
                                on={p[kind]?.includes(column) ?? false}
                                onPress={() => turn(kind, column)}
                              />
                            )}
                          </td>
                        ))}
                        <td>
                          <button
                            type="button"
                            className="act px-1.5"
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
                        </td>
                      </tr>
                    );
                  })}
                </tbody>
              </table>
              <p className="mt-1 text-[11px] text-mute">
                A train roams track of the uses and districts marked in its row; with only one of the two marked, the
                other does not matter.
              </p>
            </div>
          ) : (
            <p className="text-mute text-xs">No train in this scene yet: add the first one below.</p>
          )}
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

/** Whether a train may be there: a filled square where it may. */
function Cell({ name, on, onPress }: { name: string; on: boolean; onPress: () => void }) {
  return (
    <button type="button" aria-pressed={on} aria-label={name} title={name} className="size-7" onClick={onPress}>
      <i
        aria-hidden="true"
        className={`mx-auto block rounded-[3px] border ${on ? "size-3.5 border-ink bg-strong" : "size-2.5 border-line bg-paper"}`}
      />
    </button>
  );
}
