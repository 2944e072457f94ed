import createClient from "openapi-fetch";
import { useMe } from "../store/me";
import type { components, paths } from "./types.gen";

/** The shapes of the API, generated from the server's own description. */
export type Shape = components["schemas"];
export type Layout = Shape["Layout"];
export type State = Shape["State"];
export type Answers = Shape["Answers"];
export type Finding = Shape["FindingShape"];
export type PointAnswer = Shape["PointShape"];
export type Operation = Record<string, unknown> & { op: string; path: string; value?: unknown };
export type Trouble = { message: string; problems?: { path: string; sentence: string }[]; current?: State | null };

export const api = createClient<paths>({ baseUrl: "/" });

/** Header fields that say who is working here. */
const whoIsHere = (): Record<string, string> => {
  const { name } = useMe.getState();
  return name ? { "X-Who": encodeURIComponent(name) } : {};
};
api.use({
  onRequest({ request }) {
    if (request.method !== "GET")
      for (const [key, value] of Object.entries(whoIsHere())) request.headers.set(key, value);
    return request;
  },
});

/** An error the server put into words. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly trouble: Trouble,
  ) {
    super(trouble.message);
  }
}

type Result<T> = { data?: T; error?: unknown; response: Response };

/** The data of an answer, or a `Refused` with the server's own sentence. */
export async function answer<T>(asked: Promise<Result<T>>): Promise<T> {
  let got: Result<T>;
  try {
    got = await asked;
  } catch {
    throw new Refused(0, { message: "The program does not answer. It may have been stopped; nothing saved is lost." });
  }
  if (got.data === undefined || !got.response.ok) {
    const trouble = got.error as Trouble | undefined;
    throw new Refused(got.response.status, trouble?.message ? trouble : { message: "Something went wrong." });
  }
  return got.data;
}

/** Sends a file as it is, and answers what the server made of it, or refuses with its own sentence. */
export async function send<T>(path: string, body: File): Promise<T> {
  // What any page may send is refused, so a list saved as plain text goes as what it is: a file.
  const type = body.type.startsWith("text/plain") ? "" : body.type;
  const headers = { "Content-Type": type || "application/octet-stream", ...whoIsHere() };
  const sent = fetch(path, { method: "POST", body, headers });
  const read = async (response: Response): Promise<Result<T>> => {
    const got = await response.json();
    return response.ok ? { data: got as T, response } : { error: got, response };
  };
  return answer(sent.then(read));
}
