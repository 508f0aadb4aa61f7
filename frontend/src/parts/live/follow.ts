import { answer, api, ask, Refusal, soon, type Schemas } from "../../api/client";

export type Changes = Schemas["Changes"];
/** `live`: told as it happens. `asked`: every two seconds. `lost`: the server is out of reach. */
export type Reach = "live" | "asked" | "lost";

const ASK_MS = 2000;
const AGAIN_MS = 1000;
/** The server says something every four seconds: after so long without, it is gone. */
const SILENT_MS = 10_000;

const sleep = (ms: number, signal: AbortSignal) =>
  new Promise<void>((done) => {
    const timer = setTimeout(done, ms);
    signal.addEventListener("abort", () => (clearTimeout(timer), done()), { once: true });
  });

/** Until this page is looked at, or the signal. */
const inSight = (signal: AbortSignal) =>
  new Promise<void>((done) => {
    if (!document.hidden || signal.aborted) return done();
    const look = () => {
      if (document.hidden && !signal.aborted) return;
      document.removeEventListener("visibilitychange", look);
      done();
    };
    document.addEventListener("visibilitychange", look);
    signal.addEventListener("abort", look, { once: true });
  });

/** Hears of what others change, by a stream or by asking, for as long as the signal allows and somebody looks. */
export async function follow(
  onChanges: (changes: Changes) => void,
  onReach: (reach: Reach) => void,
  signal: AbortSignal,
): Promise<void> {
  let at: number | undefined;
  const hear = (changes: Changes) => {
    at = changes.at;
    onChanges(changes);
  };
  // A stream that was ended from the other side is another page's of this device by now: this one asks instead.
  let asks = false;
  while (!signal.aborted) {
    if (document.hidden) {
      await inSight(signal);
      asks = false;
    }
    try {
      if (asks) {
        const either = AbortSignal.any([signal, soon()]);
        hear(await answer(api.GET("/api/live", { params: { query: { at } }, signal: either })));
        onReach("asked");
        await sleep(ASK_MS, signal);
      } else {
        asks = await stream(at, hear, () => onReach("live"), signal);
      }
    } catch (error) {
      if (signal.aborted || document.hidden) continue;
      const isLost = !(error instanceof Refusal && error.status > 0);
      onReach(isLost ? "lost" : "asked");
      // Whoever had the stream has lost it too: once the server is back, it is anybody's again.
      if (isLost) asks = false;
      await sleep(AGAIN_MS, signal);
    }
  }
}

/** Reads the stream to its end; whether it was ended, or refused, from the other side. */
async function stream(
  at: number | undefined,
  hear: (changes: Changes) => void,
  onHeard: () => void,
  signal: AbortSignal,
): Promise<boolean> {
  const mine = new AbortController();
  const stop = () => mine.abort();
  const hidden = () => document.hidden && stop();
  let timer = setTimeout(stop, SILENT_MS);
  signal.addEventListener("abort", stop, { once: true });
  document.addEventListener("visibilitychange", hidden);
  try {
    const response = await ask(`/api/live/stream${at === undefined ? "" : `?at=${at}`}`, {
      signal: mine.signal,
    });
    if (!response.ok || !response.body) return true;
    onHeard();
    const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
    let rest = "";
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return true;
      onHeard();
      clearTimeout(timer);
      timer = setTimeout(stop, SILENT_MS);
      const lines = (rest + value).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines)
        if (line.startsWith("data: ")) hear(JSON.parse(line.slice("data: ".length)) as Changes);
    }
  } finally {
    clearTimeout(timer);
    mine.abort();
    signal.removeEventListener("abort", stop);
    document.removeEventListener("visibilitychange", hidden);
  }
}
