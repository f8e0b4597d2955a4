import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Problem = Schemas["Problem"];

/** What the server said was wrong, ready to show. */
export class ProblemError extends Error {
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

export const client = createClient<paths>({ baseUrl: "/" });

let units = "metric";

/** Sentences come in these units from now on; numbers are SI all the same. */
export function readIn(system: string): void {
  units = system;
}

client.use({
  onRequest({ request }) {
    request.headers.set("tickstone-units", units);
    return request;
  },
});

const UNREACHABLE: Problem = {
  title: "The server does not answer",
  status: 0,
  detail: "Tick Stone’s server is not reachable. Start it again; this page reconnects by itself.",
  fields: [],
  kept: "What was saved before is safe on disk.",
};

function asProblem(error: unknown, status: number): Problem {
  if (typeof error === "object" && error !== null && "detail" in error && "title" in error) {
    return error as Problem;
  }
  return { title: "Tick Stone slipped", status, detail: `The server answered ${status}.`, fields: [], kept: "" };
}

/** The body of an answer; throws a ProblemError for anything else. */
export async function body<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let outcome;
  try {
    outcome = await call;
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ProblemError(UNREACHABLE);
  }
  if (!outcome.response.ok) {
    throw new ProblemError(asProblem(outcome.error, outcome.response.status));
  }
  return outcome.data as T;
}

/** The problem in whatever was thrown. */
export function problemOf(error: unknown): Problem {
  if (error instanceof ProblemError) return error.problem;
  return {
    title: "Something went wrong",
    status: 0,
    detail: error instanceof Error ? error.message : String(error),
    fields: [],
    kept: "",
  };
}
