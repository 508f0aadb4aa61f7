import createClient from "openapi-fetch";
import type { components, paths } from "./generated/schema";
import { shutOut } from "./shutOut";

export type Schemas = components["schemas"];
export type BenchState = Schemas["BenchState"];
export type UnitView = Schemas["UnitView"];
export type LinkView = Schemas["LinkView"];
export type Finding = Schemas["Finding"];
export type Stage = Schemas["Stage"];
export type Choice = Schemas["Choice"];
export type Take = Schemas["Take"];
export type Session = Schemas["Session"];
export type RunState = Schemas["RunState"];
export type LockerEntry = Schemas["LockerEntry"];
export type KindInfo = Schemas["KindInfo"];
export type Change = Schemas["ChangesBody"]["changes"][number];
export type Severity = Finding["severity"];
export type End = Schemas["End"];

export const api = createClient<paths>({ baseUrl: "" });

const DATA = "Low-Tide-Data";
let seen: string | null = null;

/** A word that nobody else has, also where the browser gives out none itself (plain HTTP on a network). */
export const ownWord = () =>
  [...crypto.getRandomValues(new Uint8Array(16))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

/** What this open page goes by: only a page of the program's own can say it, and what it changed it need not be told. */
export const WINDOW = ownWord();

/** Which data this page was read from, null before the first answer. */
export const theseData = () => seen;

/** Headers of every request: which page asks, and which data it was read from, so that nothing is written into others. */
const ownHeaders = (): Record<string, string> => ({
  "Low-Tide-Window": WINDOW,
  ...(seen === null ? {} : { [DATA]: seen }),
});

/** Told when an answer was not the server's but what this device had kept of it (public/sw.js). */
export const kept = new EventTarget();

function heard(response: Response) {
  if (response.headers.has("x-low-tide-kept")) kept.dispatchEvent(new Event("shown"));
  seen ??= response.headers.get(DATA);
  if (response.status === 401) shutOut();
}

api.use({
  onRequest({ request }) {
    for (const [name, value] of Object.entries(ownHeaders())) request.headers.set(name, value);
    return request;
  },
  onResponse({ response }) {
    heard(response);
    return undefined;
  },
});

/** Asks for what is no JSON: a sound, a stream, lines. */
export async function ask(url: string, init: RequestInit = {}): Promise<Response> {
  const response = await fetch(url, {
    ...init,
    headers: { ...(init.headers as Record<string, string>), ...ownHeaders() },
  });
  heard(response);
  return response;
}

/** A refusal from the server, in its own sentences. */
export class Refusal extends Error {
  readonly status: number;
  readonly title: string;
  readonly problems: string[];
  readonly fields: (string | number)[][];

  constructor(status: number, problem?: Partial<Schemas["Problem"]>) {
    const problems = problem?.problems ?? ["The server gave no answer that can be read."];
    super(problems.join(" "));
    this.status = status;
    this.title = problem?.title ?? "Something went wrong";
    this.problems = problems;
    this.fields = (problem?.fields ?? []) as (string | number)[][];
  }
}

export const OFFLINE = new Refusal(0, {
  title: "The server does not answer",
  problems: [
    "Low Tide’s server does not answer. Is it still running? Nothing you entered is lost on this page.",
  ],
});

const PATIENCE_MS = 8_000;

/** For what somebody stands and waits for: a network that lost the answer does not say so, so after a while without one
 * the server counts as out of reach. */
export const soon = () => AbortSignal.timeout(PATIENCE_MS);

/** The data of an answer, or its refusal thrown. */
export async function answer<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let result;
  try {
    result = await call;
  } catch {
    throw OFFLINE;
  }
  if (!result.response.ok) {
    throw new Refusal(result.response.status, result.error as Partial<Schemas["Problem"]>);
  }
  return result.data as T;
}

const UNREADABLE = new Refusal(0, {
  title: "The file cannot be read",
  problems: ["The file has changed or gone since it was chosen. Choose it again."],
});

const MOST = 64 * 1024 * 1024;
const TOO_LARGE = new Refusal(413, {
  title: "The file is too large",
  problems: ["It is larger than 64 MiB, the most that is taken. Nothing was sent."],
});

/** A body that is not JSON: a file sent as it is. */
export async function sendFile<T>(url: string, file: Blob): Promise<T> {
  if (file.size > MOST) throw TOO_LARGE;
  let body: ArrayBuffer;
  try {
    body = await file.arrayBuffer();
  } catch {
    throw UNREADABLE;
  }
  return answer<T>(
    ask(url, {
      method: "POST",
      body,
      headers: { "content-type": "application/octet-stream" },
    }).then(async (response) => {
      const told = await response.json().catch(() => undefined);
      return response.ok ? { data: told as T, response } : { error: told, response };
    }),
  );
}
