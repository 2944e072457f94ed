import { useKept } from "./useKept";

/** Rows in the order of the column that was clicked last, numbers in names as numbers; again turns it round. The order of a
 * table of this name is kept while one is elsewhere. */
export function useSorted<Row extends object>(table: string, rows: readonly Row[], first: keyof Row & string) {
  const [by, setBy] = useKept<keyof Row & string>(`${table}.by`, first);
  const [down, setDown] = useKept(`${table}.down`, false);
  const sorted = [...rows].sort((a, b) => {
    const [x, y] = [a[by] ?? "", b[by] ?? ""];
    const order =
      typeof x === "number" && typeof y === "number"
        ? x - y
        : String(x).localeCompare(String(y), undefined, { numeric: true });
    return down ? -order : order;
  });
  const turn = (key: keyof Row & string) => {
    setDown(by === key ? !down : false);
    setBy(key);
  };
  return { sorted, by, down, turn };
}

type Props<Row> = {
  heads: readonly (readonly [keyof Row & string, string])[];
  by: keyof Row;
  down: boolean;
  turn: (key: keyof Row & string) => void;
};

/** The titles of such a table: each a button that sorts. */
export function SortHeads<Row>({ heads, by, down, turn }: Props<Row>) {
  return (
    <thead className="sticky top-0 bg-card text-left text-[11px] text-mute">
      <tr>
        {heads.map(([key, words]) => (
          <th
            key={key}
            className="border-line border-b px-2 py-1.5 font-medium"
            aria-sort={by === key ? (down ? "descending" : "ascending") : "none"}
          >
            <button type="button" className="hover:text-ink" onClick={() => turn(key)}>
              {words}
            </button>
          </th>
        ))}
      </tr>
    </thead>
  );
}
