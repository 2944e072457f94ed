import type { Layout, Operation, Shape, State } from "../api/client";

const step = (part: string) => part.replaceAll("~1", "/").replaceAll("~0", "~");

export function valueAt(document: unknown, path: string): unknown {
  let at: unknown = document;
  for (const part of path.split("/").slice(1)) {
    if (at === null || typeof at !== "object") return undefined;
    at = (at as Record<string, unknown>)[step(part)];
  }
  return at;
}

/** The document with a patch made, leaving the old one as it was. */
export function patched(document: Layout, patch: Operation[]): Layout {
  let found: unknown = document;
  for (const operation of patch) found = changed(found, operation.path.split("/").slice(1).map(step), operation);
  return found as Layout;
}

function changed(at: unknown, way: string[], operation: Operation): unknown {
  const [first, ...rest] = way;
  if (first === undefined) return operation.value;
  const copy = Array.isArray(at) ? [...at] : { ...(at as object) };
  const map = copy as Record<string, unknown>;
  if (rest.length === 0 && operation.op === "remove") delete map[first];
  else map[first] = changed(map[first], rest, operation);
  return copy;
}

type Map = Record<string, unknown>;

/** A state as it is told: whole, or as what turns the document held here into it. */
export function stateOf(told: Shape["Changed"]["state"], held: State | null): State {
  if ("document" in told) return told;
  const { since, fields, maps, ...head } = told;
  if (!held || held.revision !== since) throw new Error(`This tells what differs from change ${since}.`);
  const document: Map = { ...held.document, ...fields };
  for (const [name, { gone, put }] of Object.entries(maps)) {
    const left = { ...(held.document[name as keyof Layout] as Map) };
    for (const id of gone) delete left[id];
    document[name] = { ...left, ...put };
  }
  return { ...head, document: document as Layout };
}
