import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type ItemLine = Schemas["ItemLine"];
export type Item = Schemas["Item"];
export type Order = Schemas["Order"];
export type Job = Schemas["Job"];
export type Segment = Schemas["Segment"];
export type Revision = Schemas["Revision"];
export type RevisionLine = Schemas["RevisionLine"];
export type Finding = Schemas["Finding"];
export type Spot = Schemas["Spot"];
export type Account = Schemas["Account"];
export type Operation = Schemas["Operation"];
export type Question = Schemas["Question"];
export type Material = Schemas["Material"];
export type RuleSheet = Schemas["RuleSheet"];
export type Demand = Schemas["Demand"];
export type Edition = Schemas["Edition"];
export type Machine = Schemas["Machine"];
export type Piece = Schemas["Piece"];
export type Report = Schemas["Report"];
export type Decision = Schemas["Decision"];
export type Entry = Schemas["Entry"];
export type Cover = Schemas["Cover"];
export type Proposal = Schemas["Proposal"];
export type LetterText = Schemas["LetterText"];
export type Release = Schemas["ReleaseLine"];
export type ReleaseFormat = Schemas["FormatEnum"];
export type Outcome = Schemas["Outcome"];
export type Together = Schemas["TogetherRequest"];
export type Counts = Schemas["Counts"];
export type KeptMeasure = Schemas["Measure"];
export type Comment = Schemas["Comment"];
export type PersonAccount = Schemas["PersonAccount"];
export type Session = Schemas["Session"];
export type Person = Schemas["Person"];

/** A refusal by the server, told in one sentence. */
export class Refusal extends Error {
  constructor(
    message: string,
    readonly status: number,
  ) {
    super(message);
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export function sentenceOf(body: unknown, status: number): string {
  if (typeof body === "object" && body !== null && "detail" in body) return String(body.detail);
  if (status === 413) return "The file is larger than the server takes.";
  return status === 0
    ? "The server cannot be reached."
    : `The server could not do it (${status}). Nothing was changed.`;
}

const csrf: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "/" });
api.use(csrf);

/** The data of an answer, or a `Refusal`. */
export async function need<T>(
  call: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw new Refusal(sentenceOf(null, 0), 0);
  }
  if (!answer.response.ok) {
    throw new Refusal(sentenceOf(answer.error, answer.response.status), answer.response.status);
  }
  return answer.data as T;
}

/** Bytes of one of our binary addresses. */
export async function bytes(address: string, signal?: AbortSignal): Promise<ArrayBuffer> {
  const answer = await fetch(address, { signal });
  if (!answer.ok) throw new Refusal(sentenceOf(null, answer.status), answer.status);
  return answer.arrayBuffer();
}

/** Send a form with a file in it. */
export async function upload<T>(address: string, given: Record<string, string | File>): Promise<T> {
  const body = new FormData();
  for (const [name, value] of Object.entries(given)) body.append(name, value);
  const answer = await fetch(address, {
    method: "POST",
    body,
    headers: { "X-CSRFToken": csrfToken() },
  });
  const told: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw new Refusal(sentenceOf(told, answer.status), answer.status);
  return told as T;
}
