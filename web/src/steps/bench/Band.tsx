type Props = { low: number | null; high: number | null; value: number | null; read: number | null; words: string };

/** What is sound as a bar, what is foretold as a line in it, and the reading as a mark on it. */
export function Band({ low, high, value, read, words }: Props) {
  if (high === null || value === null) return null;
  const from = low ?? 0;
  const span = Math.max(high - from, 1e-9);
  const [start, end] = [Math.max(from - span * 0.6, 0), high + span * 0.9];
  const at = (x: number) => 4 + (Math.min(Math.max(x, start), end) - start) * (192 / (end - start));
  const outside = read !== null && (read > high || read < from);
  return (
    <svg viewBox="0 0 200 26" className="h-[26px] w-full max-w-[280px]" role="img" aria-label={words}>
      <path d="M4 13H196" stroke="var(--line)" strokeWidth="2" />
      <rect x={at(from)} y="7" width={at(high) - at(from)} height="12" rx="3" fill="var(--verd)" opacity="0.28" />
      <path d={`M${at(value)} 5V21`} stroke="var(--verd)" strokeWidth="2" />
      {read !== null ? (
        <path
          d={`M${at(read)} 2l5 6-5 16-5-16z`}
          fill={outside ? "var(--oxide)" : "var(--ink)"}
          stroke="var(--card)"
          strokeWidth="1"
        />
      ) : null}
    </svg>
  );
}
