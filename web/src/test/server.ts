import { vi } from "vitest";

type Answer = (body: never, request: Request) => unknown;

/** What the server is asked, in order: "POST /api/v1/forecasts" and its body. */
export const asked: [string, unknown][] = [];
const answers = new Map<string, Answer>();

/** A refusal, as the server words one. */
export class Refusal {
  constructor(
    readonly detail: string,
    readonly field = "",
    readonly status = 422,
  ) {}
}

/** Import this before anything that calls the API: the client keeps the `fetch` that it finds. */
export function serve(routes: Record<string, Answer>) {
  asked.length = 0;
  answers.clear();
  for (const [route, answer] of Object.entries(routes)) answers.set(route, answer);
}

async function textOf(request: Request): Promise<string> {
  if (request.headers.get("Content-Encoding") !== "gzip" || !request.body) return await request.text();
  return await new Response(request.body.pipeThrough(new DecompressionStream("gzip"))).text();
}

vi.stubGlobal("fetch", async (request: Request) => {
  const route = `${request.method} ${new URL(request.url).pathname}`;
  const isForm = request.headers.get("Content-Type")?.startsWith("multipart/");
  const text = isForm ? "" : await textOf(request);
  const body: unknown = isForm ? Object.fromEntries(await request.formData()) : text && JSON.parse(text);
  if (route === "POST /api/v1/overviews") return overview(body as Overview, request);
  asked.push([route, body]);
  const answer = answers.get(route);
  if (!answer) throw new Error(`nothing answers ${route}`);
  const found = await answer(body as never, request);
  if (found instanceof Refusal)
    return Response.json(
      { detail: found.detail, errors: [{ path: found.field, message: found.detail }] },
      { status: found.status },
    );
  return typeof found === "string" ? new Response(found) : Response.json(found ?? null);
});

interface Overview {
  document: object;
  questions: { what: string; index: number }[];
}

/** How many requests brought several questions. */
export const overviews = { count: 0 };

/** Each question is answered as by its own address, a line each; one whose answer throws breaks them off. */
function overview({ questions, ...body }: Overview, request: Request): Response {
  overviews.count += 1;
  async function* lines() {
    for (const { what, index } of questions) {
      const route = `POST /api/v1/${what.replace("{index}", String(index))}`;
      asked.push([route, body]);
      const found = await answers.get(route)?.(body as never, request);
      const { detail, field, status } = found instanceof Refusal ? found : new Refusal("");
      const problem = { status, detail, errors: [{ path: field, message: detail }] };
      yield JSON.stringify(found instanceof Refusal ? { problem } : { answer: found ?? null }) + "\n";
    }
  }
  const text = new TextEncoder();
  const parts = lines();
  return new Response(
    new ReadableStream({
      async pull(to) {
        const { done, value } = await parts.next();
        if (done) to.close();
        else to.enqueue(text.encode(value));
      },
    }),
  );
}
