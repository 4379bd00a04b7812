import { api, Problem, problemOf, type Job } from "./client";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
/** What can be asked of a job document, by the address that answers it alone. */
export type What = Schemas["Question"]["what"];
export type Answer<W extends What> =
  paths[`/api/v1/${W}`]["post"]["responses"][200]["content"]["application/json"];
/** Besides the document: the job whose readings count, and the sizes of a cable that are looked at. */
export type More = Partial<Pick<Schemas["OverviewIn"], "job" | "sizes">>;

interface Asked {
  what: What;
  index: number;
  more: More;
  signal: AbortSignal;
  answer: (found: unknown) => void;
  refuse: (error: unknown) => void;
}

interface Line {
  answer: unknown;
  problem?: Schemas["Problem"];
}

/** What is asked in one go, of each document. */
const together = new Map<Job, Asked[]>();

/**
 * One answer about a document. Whatever is asked of it in the same moment goes in one request, and each is answered as
 * soon as the server has it, the forecast first. Where that is refused, what was asked with it waits: it would be
 * refused as well, and the page asks again of what is stored.
 */
export function ask<W extends What>(
  document: Job,
  what: W,
  signal: AbortSignal,
  index = 0,
  more: More = {},
): Promise<Answer<W>> {
  return new Promise((answer, refuse) => {
    const give = (found: unknown) => answer(found as Answer<W>);
    const asked = { what, index, more, signal, answer: give, refuse };
    const others = together.get(document);
    if (others) others.push(asked);
    else {
      together.set(document, [asked]);
      queueMicrotask(() => void send(document));
    }
  });
}

/** Where nobody answers it is asked again, after 1, 2, 4 … 30 s. */
export function askAgain(_: number, error: Error): boolean {
  return !(error instanceof Problem) || error.status >= 500;
}

async function send(document: Job) {
  const asked = (together.get(document) ?? []).sort((a, b) => later(a) - later(b));
  together.delete(document);
  const gone = new AbortController();
  const giveUp = () => {
    if (asked.every(({ signal }) => signal.aborted)) gone.abort();
  };
  giveUp();
  for (const { signal } of asked) signal.addEventListener("abort", giveUp);
  const body = {
    sizes: {},
    ...(Object.assign({}, ...asked.map(({ more }) => more)) as More),
    document,
    questions: asked.map(({ what, index }) => ({ what, index })),
  };
  const waiting = [...asked];
  try {
    const { data } = await api.POST("/api/v1/overviews", {
      body,
      signal: gone.signal,
      parseAs: "stream",
    });
    for await (const line of linesOf(data as ReadableStream<Uint8Array>)) {
      const { answer, problem } = JSON.parse(line) as Line;
      const one = waiting.shift();
      if (!problem) one?.answer(answer);
      else {
        one?.refuse(problemOf(problem.status, problem));
        if (one?.what === "forecasts") return;
      }
    }
    throw new TypeError("the answer broke off");
  } catch (error) {
    for (const each of waiting) each.refuse(error);
  }
}

function later({ what }: Asked): number {
  return what === "forecasts" ? 0 : 1;
}

async function* linesOf(stream: ReadableStream<Uint8Array>) {
  const reader = stream.getReader();
  const text = new TextDecoder();
  let begun = "";
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      const lines = (begun + text.decode(value, { stream: true })).split("\n");
      begun = lines.pop() ?? "";
      yield* lines;
    }
  } finally {
    void reader.cancel().catch(() => undefined); // whoever reads no further is worked for no longer
  }
}
