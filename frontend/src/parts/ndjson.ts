import { ask, Refusal, type Schemas } from "../api/client";

/** Asks for an answer that comes as lines of JSON, and hands each line on as it arrives; a problem half-way is thrown. */
export async function readLines<T extends { problem?: string | null }>(
  url: string,
  body: unknown,
  signal: AbortSignal,
  onLine: (line: T) => void,
): Promise<void> {
  const response = await ask(url, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify(body),
    signal,
  });
  if (!response.ok || !response.body) {
    throw new Refusal(response.status, (await response.json()) as Partial<Schemas["Problem"]>);
  }
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    if (done) return;
    const lines = (rest + value).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines.filter(Boolean).map((text) => JSON.parse(text) as T)) {
      if (line.problem) throw new Refusal(422, { title: "It was not finished", problems: [line.problem] });
      onLine(line);
    }
  }
}
