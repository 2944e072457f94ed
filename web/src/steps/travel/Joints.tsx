import { Swatch } from "../../parts/Swatch";
import { type Kind, useBench } from "../../store/bench";
import { type Travel, useTravel } from "./queries";

type Joint = Travel["joints"][number];

/** Every joint with its couplings, pin by pin: the same list for both halves. */
export function Joints() {
  const { data, error } = useTravel();
  if (error)
    return (
      <p role="alert" className="p-3 text-oxide text-xs">
        {(error as Error).message}
      </p>
    );
  if (!data) return <p className="p-3 text-mute text-xs">Looking for joints…</p>;
  if (!data.joints.length)
    return (
      <p className="m-3 max-w-2xl self-start rounded-lg border border-line bg-paper p-2.5 text-[12px]">
        {data.words} A board lifts out when its card says so: pick it on the plan in step Track.
      </p>
    );
  return (
    <section className="min-h-0 overflow-auto p-3 text-[12px]" aria-label="Joints" data-testid="joints">
      <p className="no-print mb-2 flex gap-3">
        <button type="button" className="btn" onClick={() => print()}>
          Print the pin lists
        </button>
        <span className="self-center text-mute">Both halves have the same pins. Label both, and cap open sockets.</span>
      </p>
      <div className="grid gap-3 xl:grid-cols-2">
        {data.joints.map((j) => (
          <JointCard key={j.key} joint={j} />
        ))}
      </div>
    </section>
  );
}

function JointCard({ joint }: { joint: Joint }) {
  const show = useBench((s) => s.show);
  const first = joint.boards[0];
  return (
    <article className="rounded-lg border border-line bg-paper p-2.5" data-joint={joint.key}>
      <h3 className="flex flex-wrap items-baseline gap-x-2 font-bold text-[12.5px]">
        {joint.name}
        {joint.failed ? (
          <span className="font-semibold text-[11px] text-oxide">failed {joint.failed} × at shows</span>
        ) : null}
        {first ? (
          <button
            type="button"
            className="act ml-auto font-normal text-xs"
            onClick={() => show({ kind: "board" as Kind, id: first }, null, joint.boards)}
          >
            Show<span className="sr-only"> {joint.name}</span>
          </button>
        ) : null}
      </h3>
      <p className="text-[11.5px] text-mute">Couplings hang {joint.hang}.</p>
      {joint.couplings.map((c) => (
        <div key={`${c.id} ${c.name} ${c.pins[0]?.wire}`} className="mt-1.5">
          <p>
            <b className="figure">{c.name}</b> {c.kind} · sockets on {c.sockets_on}
          </p>
          <ol className="mt-0.5 flex flex-wrap gap-x-3 gap-y-0.5 text-[11.5px]">
            {c.pins.map((p) => (
              <li key={p.number} className="flex items-center gap-1" title={p.power}>
                <b className="figure">{p.number}</b>
                <Swatch a={p.colour} b={p.colour} words={false} />
                {p.colour} <span className="text-mute">{p.wire}</span>
              </li>
            ))}
          </ol>
        </div>
      ))}
      {joint.bare.length ? (
        <p className="mt-1.5 text-oxide">In no coupling: {joint.bare.join(", ")}.</p>
      ) : joint.couplings.length ? null : (
        <p className="mt-1.5 text-mute">No wire crosses here.</p>
      )}
      {joint.tracks.length ? (
        <p className="mt-1.5 text-[11.5px]">
          Rails: {joint.tracks.map((t) => (t.gapped ? `${t.name} (gapped)` : t.name)).join(", ")}.
        </p>
      ) : null}
    </article>
  );
}
