import { useLayout } from "../../store/layout";

const WIRES = [2, 3, 4, 6, 8] as const;
const MODULES = [4, 8, 16] as const;

/** A wish of the club, chosen from a few. */
function Wish({
  label,
  path,
  options,
}: {
  label: string;
  path: "line_wires" | "hand_wires" | "module";
  options: readonly (readonly [number | null, string])[];
}) {
  const value = useLayout((s) => s.state?.document.brief?.detecting?.[path] ?? null);
  const edit = useLayout((s) => s.edit);
  return (
    <label className="flex flex-col text-[11.5px] text-mute">
      {label}
      <select
        className="field mt-0.5 w-44 text-ink"
        value={value ?? ""}
        onChange={(e) => {
          const chosen = options.find(([n]) => String(n ?? "") === e.target.value) ?? options[0];
          if (chosen)
            void edit(`${label}: ${chosen[1]}`, [{ op: "add", path: `/brief/detecting/${path}`, value: chosen[0] }]);
        }}
      >
        {options.map(([n, says]) => (
          <option key={says} value={n ?? ""}>
            {says}
          </option>
        ))}
      </select>
    </label>
  );
}

/** How the boards in hand are numbered, as their leaflet has it. */
export function Numbering() {
  const fromOne = useLayout((s) => s.state?.document.brief?.detecting?.from_one ?? false);
  const edit = useLayout((s) => s.edit);
  return (
    <div className="flex flex-wrap items-end gap-3">
      <Wish
        label="Boards are numbered"
        path="module"
        options={[[null, "channel by channel"], ...MODULES.map((n) => [n, `by modules of ${n}`] as const)]}
      />
      <label className="flex items-center gap-1.5 pb-1.5 text-xs">
        <input
          type="checkbox"
          checked={fromOne}
          onChange={(e) =>
            void edit(e.target.checked ? "Boards begin at number 1" : "Boards may begin at any number", [
              { op: "add", path: "/brief/detecting/from_one", value: e.target.checked },
            ])
          }
        />
        The lowest must begin at 1
      </label>
    </div>
  );
}

/** The line that joins the boards, each to the next: planned when somebody says how many wires it has. */
export function ReportLine({ stops }: { stops: string[] }) {
  return (
    <div>
      <Wish
        label="Report line"
        path="line_wires"
        options={[[null, "not planned"], ...WIRES.map((n) => [n, `${n} wires`] as const)]}
      />
      <p className="mt-1 text-mute" data-testid="report-line">
        {stops.length
          ? stops.join(" → ")
          : "One cable from the station to every board, each to the next: cut, counted and plugged with the rest."}
      </p>
    </div>
  );
}

/** The line to every plate of sockets for hand controllers, each to the next. */
export function HandLine({ stops }: { stops: string[] }) {
  return (
    <div>
      <Wish
        label="Line of the hand controllers"
        path="hand_wires"
        options={WIRES.map((n) => [n, `${n} wires`] as const)}
      />
      <p className="mt-1 text-mute" data-testid="hand-line">
        {stops.length
          ? stops.join(" → ")
          : "No socket is placed: step Track, tool Driver board, and there “Drives: hand controllers”. The line is cut, counted and plugged with the rest."}
      </p>
    </div>
  );
}
