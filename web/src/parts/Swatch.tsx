const INKS: Record<string, string> = {
  red: "#C33B26",
  black: "#15191B",
  white: "#F7F4EC",
  blue: "#2F6CB3",
  green: "#3D8A4A",
  yellow: "#E3BE2B",
  brown: "#7A4A26",
  grey: "#8A8F92",
  gray: "#8A8F92",
  orange: "#E0812B",
  purple: "#7C4A9C",
  violet: "#7C4A9C",
  pink: "#E58FA6",
  clear: "#DDE3E4",
};

export const WIRE_COLOURS = Object.keys(INKS).filter((c) => c !== "gray" && c !== "violet");
/** The ink a wire colour is drawn in. */
export const inkOf = (colour: string) => INKS[colour] ?? "#8A8F92";

const Wire = ({ colour, y }: { colour: string; y: number }) => {
  const [base = "grey", stripe] = colour.split("/");
  return (
    <g>
      <rect x="0.5" y={y} width="25" height="5" rx="2" fill={inkOf(base)} stroke="var(--mute)" strokeWidth="0.6" />
      {stripe ? (
        <path
          d={`M5 ${y + 4.6}l3-4.2M12 ${y + 4.6}l3-4.2M19 ${y + 4.6}l3-4.2`}
          stroke={inkOf(stripe)}
          strokeWidth="1.8"
        />
      ) : null}
    </g>
  );
};

/** Two wires in their colours, with the colours in words beside: colour never speaks alone. */
export function Swatch({ a, b, words = true }: { a: string; b: string; words?: boolean }) {
  return (
    <span className="inline-flex items-center gap-1.5 whitespace-nowrap">
      <svg width="26" height="13" viewBox="0 0 26 13" role="img" aria-label={`${a} and ${b}`}>
        <Wire colour={a} y={0.7} />
        <Wire colour={b} y={7} />
      </svg>
      {words ? (
        <span>
          {a} · {b}
        </span>
      ) : null}
    </span>
  );
}

/** Any number of wires in their colours, with the colours in words beside. */
export function Swatches({ colours }: { colours: string[] }) {
  if (colours.length === 2) return <Swatch a={colours[0] ?? ""} b={colours[1] ?? ""} />;
  const tall = Math.max(colours.length * 6.3, 6.3);
  return (
    <span className="inline-flex items-center gap-1.5">
      <svg
        width="26"
        height={tall}
        viewBox={`0 0 26 ${tall}`}
        role="img"
        aria-label={colours.join(", ")}
        className="shrink-0"
      >
        {colours.map((colour, k) => (
          <Wire key={colour} colour={colour} y={0.7 + k * 6.3} />
        ))}
      </svg>
      <span>{colours.join(" · ")}</span>
    </span>
  );
}
