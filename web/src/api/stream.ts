/** Reads an answer that tells of its progress: a line of JSON for each step, the last one with the answer. */
export async function streamed<Answer, Step extends object>(
  url: string,
  told: (step: Step) => void,
  signal?: AbortSignal,
  body?: object,
): Promise<Answer> {
  const asked = body
    ? { method: "POST", body: JSON.stringify(body), headers: { "Content-Type": "application/json" } }
    : {};
  const got = await fetch(url, { signal, ...asked });
  if (!got.ok || !got.body) {
    const trouble = (await got.json().catch(() => null)) as { message?: string } | null;
    throw new Error(trouble?.message ?? "That could not be worked out.");
  }
  const reader = got.body.pipeThrough(new TextDecoderStream()).getReader();
  let left = "";
  for (;;) {
    const { value, done } = await reader.read();
    left += value ?? "";
    const lines = left.split("\n");
    left = lines.pop() ?? "";
    for (const line of lines.filter(Boolean)) {
      const step = JSON.parse(line) as Step & { answer?: Answer; trouble?: string };
      if (step.trouble) throw new Error(step.trouble);
      if (step.answer) return step.answer;
      told(step);
    }
    if (done) throw new Error("It broke off; ask again.");
  }
}
