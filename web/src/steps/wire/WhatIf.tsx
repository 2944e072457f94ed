import type { Operation } from "../../api/client";
import { useWhatIf } from "../../api/queries";
import { bound } from "../../parts/bound";
import { useBench } from "../../store/bench";
import { useLayout } from "../../store/layout";

/** The few single changes that help the point most, each computed on the whole layout before it is shown. */
export function WhatIf() {
  const { data, isFetching, isError } = useWhatIf();
  const edit = useLayout((s) => s.edit);
  const coin = useBench((s) => s.look) === "coin";
  const rows = coin ? data?.filter((w) => w.coin_gain > 0.005).sort((a, b) => b.coin_gain - a.coin_gain) : data;
  return (
    <section aria-label="If you changed one thing" aria-busy={isFetching}>
      <h2 className="mb-1.5 flex items-baseline justify-between font-bold text-[12.5px]">
        If you changed one thing
        {isFetching ? <span className="font-normal text-[11px] text-mute">working it out…</span> : null}
      </h2>
      <ul className="flex flex-col gap-1">
        {rows?.map((w) => (
          <li key={w.label}>
            <button
              type="button"
              disabled={isFetching}
              title={`${w.reason}. Here ${w.before_text} becomes ${w.after_text}; lowest in the district ${w.lowest_before_text} becomes ${w.lowest_after_text}. Click to make this change; Undo takes it back.`}
              className="fade flex w-full items-baseline justify-between gap-2 rounded-[7px] border border-line bg-paper px-2 py-1 text-left text-xs hover:border-copper disabled:opacity-60"
              onClick={() => void edit(w.label, w.patch as Operation[])}
            >
              <span className="min-w-0">
                <span className="block truncate">{w.label}</span>
                <span className="block truncate text-[10.5px] text-mute">{bound(w.reason)}</span>
              </span>
              <span className="figure whitespace-nowrap text-right font-semibold text-verd">
                {coin ? w.coin_after_text : w.after_text}
                <span className="block font-normal text-[10.5px] text-mute">
                  was {coin ? w.coin_before_text : w.before_text}
                </span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      {rows && rows.length === 0 && !isFetching ? (
        <p className="text-mute text-xs">
          No single change tried here{" "}
          {coin
            ? "lets a larger short flow here; the source's own limit may be what holds it."
            : "raises the volts by a hundredth."}
        </p>
      ) : null}
      {isError ? <p className="text-oxide text-xs">This could not be worked out just now.</p> : null}
    </section>
  );
}
