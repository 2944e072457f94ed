import { Typed } from "../../parts/Typed";
import { useKept } from "../../parts/useKept";
import { today } from "../../parts/when";

/** Which show it is: what is ticked is kept under its name and day. */
export function useShow(): [{ show: string; day: string }, (part: Partial<{ show: string; day: string }>) => void] {
  const [show, setShow] = useKept("travel.show", "");
  const [day, setDay] = useKept("travel.day", today());
  return [
    { show, day },
    (part) => {
      if (part.show !== undefined) setShow(part.show);
      if (part.day !== undefined) setDay(part.day);
    },
  ];
}

/** The name and day of the show, beside what is ticked off. */
export function ShowBar({
  show,
  day,
  onTake,
}: {
  show: string;
  day: string;
  onTake: (part: Partial<{ show: string; day: string }>) => void;
}) {
  return (
    <div className="no-print mb-2 flex flex-wrap items-end gap-2">
      <div className="w-52">
        <Typed
          label="Show"
          kind="text"
          shown={show}
          placeholder="Autumn fair, Dunmere"
          clearable
          onTake={async (v) => {
            onTake({ show: String(v ?? "").slice(0, 80) });
            return null;
          }}
        />
      </div>
      <label className="text-[11.5px] text-mute">
        Day
        <input
          type="date"
          className="field figure mt-0.5 block"
          value={day}
          onChange={(e) => e.target.value && onTake({ day: e.target.value })}
        />
      </label>
      <button type="button" className="btn" onClick={() => print()}>
        Print it
      </button>
      <span className="pb-1.5 text-mute">
        {show ? "What you tick is kept with this show." : "Name the show, and what you tick is kept with it."}
      </span>
    </div>
  );
}
