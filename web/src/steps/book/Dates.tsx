import type { Shape } from "../../api/client";
import { useWhere } from "../../api/queries";
import { nextNumber } from "../../parts/ids";
import { Choice, Typed } from "../../parts/Typed";
import { today } from "../../parts/when";
import { useLayout } from "../../store/layout";

type ClubDate = Shape["ClubDate"];
const KINDS = { building: "Evening of building", show: "Show", test: "Yearly test", other: "Other" } as const;
const EVERY = { never: "once", week: "every week", fortnight: "every fortnight", year: "every year" } as const;
const keys = <T extends string>(says: Record<T, string>) => Object.keys(says) as T[];

/** The club's dates, for its own calendar. */
export function Dates() {
  const { id } = useWhere();
  const dates = useLayout((s) => s.state?.document.dates) ?? {};
  const edit = useLayout((s) => s.edit);
  const rows = Object.entries(dates).sort(([, a], [, b]) => a.day.localeCompare(b.day));
  const add = () => {
    const value = { kind: "building", name: "Evening of building", day: today() };
    void edit("A date", [{ op: "add", path: `/dates/d${nextNumber("d", dates)}`, value }]);
  };
  return (
    <section aria-label="Calendar" className="rounded-lg border border-line bg-card p-3">
      <h3 className="font-bold text-sm">Calendar</h3>
      <p className="mt-0.5 text-mute">
        Evenings of building, shows and tests, as iCalendar for the club's own calendar. The yearly test stands in it a
        year after the last reading.
      </p>
      <div className="mt-2 flex gap-2">
        <button type="button" className="btn" onClick={add}>
          One more date
        </button>
        <a className="btn" href={`/api/layouts/${id}/files/calendar.ics`} download>
          calendar.ics
        </a>
      </div>
      <ul className="mt-2 grid gap-2">
        {rows.map(([key, d]) => (
          <OneDate key={key} id={key} date={d} />
        ))}
      </ul>
    </section>
  );
}

function OneDate({ id, date }: { id: string; date: ClubDate }) {
  const edit = useLayout((s) => s.edit);
  const put = (field: string, value: unknown, words: string) =>
    edit(`${date.name}: ${words}`, [{ op: "add", path: `/dates/${id}/${field}`, value }], true);
  const time = (field: "starts" | "ends", label: string) => (
    <Typed
      label={label}
      kind="text"
      shown={date[field] ?? ""}
      placeholder={field === "starts" ? "all day" : "—"}
      clearable
      onTake={(v) => put(field, v, v ? `${field} ${v}` : `${field} not said`)}
    />
  );
  return (
    <li className="rounded border border-line bg-paper p-2">
      <div className="grid grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_140px] gap-2">
        <Typed label="Name" kind="text" shown={date.name} onTake={(v) => put("name", v, String(v))} />
        <Choice
          label="What"
          value={date.kind ?? "building"}
          options={keys(KINDS)}
          says={KINDS}
          onChange={(v) => void put("kind", v, KINDS[v])}
        />
        <label className="text-[11.5px] text-mute">
          Day
          <input
            type="date"
            className="field figure mt-0.5"
            value={date.day}
            onChange={(e) => e.target.value && void put("day", e.target.value, e.target.value)}
          />
        </label>
      </div>
      <div className="mt-1.5 grid grid-cols-[70px_70px_minmax(0,1fr)_minmax(0,1fr)_auto] items-end gap-2">
        {time("starts", "From")}
        {time("ends", "To")}
        <Choice
          label="Comes again"
          value={date.every ?? "never"}
          options={keys(EVERY)}
          says={EVERY}
          onChange={(v) => void put("every", v, EVERY[v])}
        />
        <Typed
          label="Place"
          kind="text"
          shown={date.place ?? ""}
          clearable
          onTake={(v) => put("place", v ?? "", v ? `at ${v}` : "no place")}
        />
        <button
          type="button"
          className="act pb-1"
          onClick={() => void edit(`${date.name} is off`, [{ op: "remove", path: `/dates/${id}` }])}
        >
          Take away<span className="sr-only"> {date.name}</span>
        </button>
      </div>
    </li>
  );
}
