/** A share as a short bar; the figure stands beside it in words. */
export function Bar({ share, tone = "copper" }: { share: number; tone?: "copper" | "verd" }) {
  return (
    <span aria-hidden="true" className="inline-block h-1.5 w-24 overflow-hidden rounded bg-board align-middle">
      <span
        className={`block h-full ${tone === "verd" ? "bg-verd" : "bg-copper"}`}
        style={{ width: `${Math.min(Math.max(share, 0), 1) * 100}%` }}
      />
    </span>
  );
}
