import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { queries } from "./api/cache";
import "./index.css";

// A phone under the boards fetches only what it needs, and so does the bench.
const App = lazy(() => import("./App").then((m) => ({ default: m.App })));
const Under = lazy(() => import("./under/Under").then((m) => ({ default: m.Under })));

const Enter = lazy(() => import("./under/Enter").then((m) => ({ default: m.Enter })));

/** Where to go once in: only to a page of our own. */
const wished = () => {
  const to = new URLSearchParams(location.search).get("to") ?? "/";
  // As the browser itself reads it: "/\\elsewhere" and the like lead away though they begin with a slash.
  const page = URL.canParse(to, location.origin) ? new URL(to, location.origin) : null;
  return page?.origin === location.origin ? `${page.pathname}${page.search}${page.hash}` : "/";
};
const page = () => {
  if (location.pathname.startsWith("/under")) return <Under />;
  if (location.pathname.startsWith("/enter")) return <Enter onIn={async () => location.assign(wished())} />;
  return <App />;
};

const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <Suspense fallback={null}>{page()}</Suspense>
      </QueryClientProvider>
    </StrictMode>,
  );
