import { answer, api } from "../api/client";
import { TakeIn } from "../parts/TakeIn";
import { useLayout } from "../store/layout";
import { NewLayout } from "./NewLayout";

/** A club file with nothing in it yet. */
export function Empty() {
  const take = useLayout((s) => s.take);
  return (
    <section className="mx-auto mt-16 max-w-lg rounded-xl border border-line bg-card p-8">
      <h2 className="font-bold text-lg">No layout in this club file yet</h2>
      <p className="mt-2 text-mute">
        Start a layout of your own, open a layout file someone gave you, or look round the demo railroad first: a TT
        club layout with a few honest wiring mistakes in it. Quick sums, at the lower left, need no layout at all.
      </p>
      <div className="mt-5 flex gap-3">
        <NewLayout main />
        <button type="button" className="btn" onClick={async () => take(await answer(api.POST("/api/demo")))}>
          Add the demo railroad
        </button>
        <TakeIn />
      </div>
    </section>
  );
}
