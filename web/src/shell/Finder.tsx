import { Dialog } from "radix-ui";
import { useEffect, useMemo, useRef, useState } from "react";
import { useAnswers } from "../api/queries";
import { type Kind, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { ACTS, planStep } from "./acts";

type Row = { name: string; what: string; run: () => void };
const MOST = 60;

/** Control K: find any thing or do any action by typing a few letters of it. */
export function Finder() {
  const { finder, set } = useBench();
  return (
    <Dialog.Root open={finder} onOpenChange={(open) => set({ finder: open })}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/30" />
        <Dialog.Content
          className="fixed top-[12vh] left-1/2 z-50 w-[min(560px,92vw)] -translate-x-1/2 overflow-hidden rounded-xl border border-line bg-card text-ink shadow-2xl"
          aria-describedby={undefined}
        >
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          <List onDone={() => set({ finder: false })} />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function useRows(): Row[] {
  const layout = useLayout((s) => s.state?.document);
  const { data } = useAnswers();
  return useMemo(() => {
    const bench = useBench.getState();
    const store = useLayout.getState();
    const go =
      (kind: Kind, id: string, place: { track: string; at: number } | null = null) =>
      () => {
        bench.set({ step: planStep() });
        bench.show({ kind, id }, place);
      };
    const rows: Row[] = ACTS.map(([name, what, run]) => ({ name, what, run }));
    if (!layout) return rows;
    rows.push({
      name: "Download the wire table (CSV)",
      what: "action",
      run: () => void location.assign(`/api/layouts/${store.state?.id}/files/wires.csv`),
    });
    rows.push({
      name: "Download the wire book (PDF)",
      what: "action",
      run: () => void location.assign(`/api/layouts/${store.state?.id}/files/book.pdf`),
    });
    rows.push({
      name: "Under the boards",
      what: "phone view",
      run: () => void location.assign(`/under?layout=${store.state?.id}`),
    });
    rows.push({
      name: "Download the layout file",
      what: "action",
      run: () => void location.assign(`/api/layouts/${store.state?.id}/files/layout.json`),
    });
    const worst = data?.worst;
    if (worst)
      rows.push({
        name: "Worst point of the layout",
        what: worst.text,
        run: go("track", worst.track, { track: worst.track, at: worst.at }),
      });
    const weakest = data?.weakest;
    if (weakest)
      rows.push({
        name: "Weakest short of the layout",
        what: weakest.text,
        run: go("track", weakest.track, { track: weakest.track, at: weakest.at }),
      });
    for (const [id, s] of Object.entries(layout.scenes ?? {}))
      rows.push({ name: `Scene: ${s.name}`, what: "scene", run: () => bench.set({ scene: id }) });
    for (const [id, r] of Object.entries(layout.runs ?? {}))
      rows.push({
        name: `Bus ${r.label}`,
        what: `${r.gauge}, ${layout.circuits?.[r.circuit]?.name}`,
        run: go("run", id),
      });
    for (const [id, t] of Object.entries(layout.tracks ?? {})) {
      const at = (data?.tracks[id]?.length ?? 0) / 2;
      rows.push({ name: t.name, what: `track, ${t.use}`, run: go("track", id, { track: id, at }) });
    }
    for (const [id, d] of Object.entries(layout.devices ?? {}).filter(([, d]) => !d.board))
      rows.push({ name: d.name, what: d.kind, run: go("device", id) });
    for (const [id, x] of Object.entries(layout.loads ?? {}))
      rows.push({ name: x.name, what: x.kind, run: go("load", id) });
    for (const [id, f] of Object.entries(layout.feeders ?? {}))
      rows.push({ name: `Feeder ${f.label}`, what: layout.tracks?.[f.track]?.name ?? "", run: go("feeder", id) });
    for (const [id, t] of Object.entries(layout.terminals ?? {}))
      rows.push({ name: `Terminal ${id}`, what: `on bus ${layout.runs?.[t.run]?.label}`, run: go("terminal", id) });
    for (const [id, b] of Object.entries(layout.boards ?? {}))
      rows.push({ name: `Board ${b.name}`, what: "board", run: go("board", id) });
    for (const [id, n] of Object.entries(layout.nodes ?? {})) {
      const ends = Object.keys(data?.nodes[id]?.leaves ?? {}).length;
      const open = n.kind === "joint" && ends < 2;
      if (n.kind !== "joint" || open)
        rows.push({
          name: open ? `Open end ${id}` : (n.name ?? id),
          what: open ? "track" : n.kind,
          run: go("node", id),
        });
    }
    for (const [id, s] of Object.entries(layout.signals ?? {}))
      rows.push({ name: `Signal ${s.name}`, what: layout.tracks?.[s.track]?.name ?? "", run: go("signal", id) });
    for (const [id, d] of Object.entries(layout.detectors ?? {}))
      rows.push({ name: d.name, what: `detector board from ${d.address}`, run: go("detector", id) });
    for (const [id, d] of Object.entries(layout.drivers ?? {}))
      rows.push({ name: d.name, what: `driver board, ${d.drives}`, run: go("driver", id) });
    for (const [id, s] of Object.entries(layout.sections ?? {}))
      rows.push({
        name: `Section ${s.name}`,
        what: layout.circuits?.[s.circuit]?.name ?? "",
        run: go("section", id, s),
      });
    return rows;
  }, [layout, data]);
}

function List({ onDone }: { onDone: () => void }) {
  const rows = useRows();
  const [text, setText] = useState("");
  const [on, setOn] = useState(0);
  const list = useRef<HTMLDivElement>(null);
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const found = rows.filter((r) => words.every((w) => `${r.name} ${r.what}`.toLowerCase().includes(w))).slice(0, MOST);
  useEffect(() => {
    list.current?.children[on]?.scrollIntoView({ block: "nearest" });
  }, [on]);
  const take = (row: Row | undefined) => {
    if (!row) return;
    onDone();
    row.run();
  };
  return (
    <>
      <input
        className="w-full border-line border-b bg-card px-4 py-3 text-[15px] outline-none"
        placeholder="A bus, a feeder, a track, a board, or what to do…"
        aria-label="Find or do"
        role="combobox"
        aria-expanded="true"
        aria-controls="finder-list"
        aria-activedescendant={found[on] ? `finder-${on}` : undefined}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setOn(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setOn(Math.min(on + 1, found.length - 1));
          else if (event.key === "ArrowUp") setOn(Math.max(on - 1, 0));
          else if (event.key === "Enter") take(found[on]);
          else return;
          event.preventDefault();
        }}
      />
      <div
        id="finder-list"
        role="listbox"
        aria-label="Found"
        ref={list}
        className="max-h-[50vh] overflow-y-auto py-1.5"
      >
        {found.map((row, k) => (
          <div
            key={`${row.name}${row.what}`}
            id={`finder-${k}`}
            role="option"
            tabIndex={-1}
            aria-selected={k === on}
            className={`flex cursor-pointer justify-between gap-4 px-4 py-1.5 ${k === on ? "bg-board" : ""}`}
            onPointerMove={() => setOn(k)}
            onClick={() => take(row)}
            onKeyDown={() => undefined}
          >
            <span>{row.name}</span>
            <span className="truncate text-mute text-xs">{row.what}</span>
          </div>
        ))}
        {found.length === 0 ? <p className="px-4 py-3 text-mute">Nothing here is called that.</p> : null}
      </div>
    </>
  );
}
