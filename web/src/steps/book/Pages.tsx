import { useEffect, useRef, useState } from "react";
import { useWhere } from "../../api/queries";
import { pathOf } from "../../parts/useFile";

/** The book as it prints, on paper in any theme. Keeps its place when the layout changes. */
export function Pages({ shown }: { shown: string | null }) {
  const { id, revision, scene } = useWhere();
  const frame = useRef<HTMLIFrameElement>(null);
  const [loaded, setLoaded] = useState(0);
  const path = pathOf(`/api/layouts/${id}/files/book.html`, { revision, scene });
  // biome-ignore lint/correctness/useExhaustiveDependencies: a page loaded anew goes to its chapter again
  useEffect(() => {
    const page = frame.current?.contentDocument;
    if (shown) page?.getElementById(shown)?.scrollIntoView();
  }, [shown, loaded]);
  return (
    <div className="relative min-h-0 flex-1 bg-board">
      {loaded === 0 ? <p className="absolute p-4 text-mute">Writing the pages…</p> : null}
      <iframe
        ref={frame}
        id="book-pages"
        title="Pages of the wire book"
        src={path}
        className={`h-full w-full border-0 ${loaded ? "bg-white" : ""}`}
        onLoad={() => setLoaded((n) => n + 1)}
      />
    </div>
  );
}
