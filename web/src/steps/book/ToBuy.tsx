import type { Shape } from "../../api/client";
import { bound } from "../../parts/bound";
import { Swatch } from "../../parts/Swatch";
import { Typed } from "../../parts/Typed";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

const money = (value: number | null | undefined) => (value === null || value === undefined ? "—" : value.toFixed(2));

/** Everything to buy: wire by spool, the rest by the piece, with prices the club types in. */
export function ToBuy({ book }: { book: Shape["BookShape"] }) {
  const edit = useLayout((s) => s.edit);
  const set = useBench((s) => s.set);
  const price = (item: Shape["ItemShape"], value: string | null) => {
    if (value === null)
      return edit(`${item.name}: price not known`, [{ op: "remove", path: `/prices/${item.key}` }], true);
    const n = Number(value.replace(",", "."));
    return Number.isFinite(n) && n >= 0 && n <= 100_000
      ? edit(`${item.name}: ${n.toFixed(2)} each`, [{ op: "add", path: `/prices/${item.key}`, value: n }], true)
      : Promise.resolve("A price, such as 3.50.");
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto p-4" data-testid="to-buy">
      <h3 className="font-bold text-sm">Wire</h3>
      <p className="mb-1.5 max-w-[70ch] text-mute text-xs">
        Every piece cut with slack, every conductor counted, from spools on hand first.{" "}
        <button type="button" className="act" onClick={() => set({ step: "wire" })}>
          Spools and their prices
        </button>{" "}
        stand in the step Wire, at Size it.
      </p>
      <table className="w-full max-w-[820px] text-[12.5px] [&_td]:py-1 [&_td]:pr-4 [&_th]:pr-4">
        <thead className="text-left text-[11px] text-mute">
          <tr className="border-line border-b">
            <th className="font-medium">Wire</th>
            <th className="font-medium">Colour</th>
            <th className="text-right font-medium">Needed</th>
            <th className="text-right font-medium">New spools</th>
            <th className="text-right font-medium">Left over</th>
            <th className="text-right font-medium">Cost</th>
          </tr>
        </thead>
        <tbody>
          {book.wire.map((w) => (
            <tr key={w.gauge + w.strands + w.colour} className="border-line border-b">
              <td>
                <span className="figure">{w.gauge}</span> <span className="text-mute">{w.strands}</span>
              </td>
              <td>
                <Swatch a={w.colour} b={w.colour} words={false} /> {w.colour}
              </td>
              <td className="figure text-right">{bound(w.needed_text)}</td>
              <td
                className="figure text-right"
                title={w.exact ? "No fewer will do." : "Longest first; one spool less may be possible."}
              >
                {w.new_spools} × {bound(w.spool_text)}
                {w.exact ? "" : " or fewer"}
              </td>
              <td className="figure text-right">{bound(w.left_text)}</td>
              <td className="figure text-right">{money(w.cost)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h3 className="mt-5 font-bold text-sm">By the piece</h3>
      <table className="w-full max-w-[820px] text-[12.5px] [&_td]:py-1 [&_td]:pr-4 [&_th]:pr-4">
        <thead className="text-left text-[11px] text-mute">
          <tr className="border-line border-b">
            <th className="font-medium">What</th>
            <th className="text-right font-medium">How many</th>
            <th className="font-medium">For</th>
            <th className="w-28 font-medium">Price each</th>
            <th className="text-right font-medium">Cost</th>
          </tr>
        </thead>
        <tbody>
          {book.items.map((i) => (
            <tr key={i.key} className="border-line border-b">
              <td>{i.name}</td>
              <td className="figure text-right">{i.count}</td>
              <td className="text-mute">{bound(i.reason)}</td>
              <td>
                <Typed
                  label={`Price of one ${i.name}`}
                  hideLabel
                  kind="text"
                  shown={i.price === null ? "" : i.price.toFixed(2)}
                  placeholder="not known"
                  clearable
                  onTake={(v) => price(i, v === null ? null : String(v))}
                />
              </td>
              <td className="figure text-right">{money(i.cost)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-3 text-[13px]">
        In all <b className="figure">{money(book.total)}</b> in the club’s own money
        {book.unpriced ? `, without the ${book.unpriced} lines that have no price` : ""}.
      </p>
    </div>
  );
}
