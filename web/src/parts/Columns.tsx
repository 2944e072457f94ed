/** The heads of a table's columns. */
export function Columns({ names, apart = "pr-2" }: { names: readonly string[]; apart?: "pr-2" | "pr-3" }) {
  return (
    <thead className="text-left text-[11px] text-mute">
      <tr>
        {names.map((name) => (
          <th key={name} className={`border-line border-b py-1 ${apart} font-medium`}>
            {name}
          </th>
        ))}
      </tr>
    </thead>
  );
}
