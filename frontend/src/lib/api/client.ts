import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Paint = components["schemas"]["PaintOut"];
export type Pigment = components["schemas"]["PigmentOut"];
export type Library = components["schemas"]["LibraryOut"];
export type Sheet = components["schemas"]["SheetOut"];
export type Session = components["schemas"]["SessionOut"];
export type Plan = components["schemas"]["PlanIn"];
export type Question = components["schemas"]["QuestionOut"];
export type Preview = components["schemas"]["PreviewOut"];
export type Proposal = components["schemas"]["ProposalOut"];
export type BenchPage = components["schemas"]["BenchOut"];
export type BenchTimer = components["schemas"]["TimerOut"];
export type Waiting = components["schemas"]["WaitingOut"];
export type HistoryLine = components["schemas"]["HistoryLineOut"];
export type Card = components["schemas"]["CardOut"];
export type Light = components["schemas"]["LightIn"];
export type Device = components["schemas"]["DeviceIn"];
export type Uploaded = components["schemas"]["UploadedOut"];
export type Capture = components["schemas"]["CaptureOut"];
export type Swatch = components["schemas"]["SwatchOut"];
export type Replicate = components["schemas"]["ReplicateOut"];
export type Pair = components["schemas"]["PairOut"];
export type Comparison = components["schemas"]["ComparisonOut"];
export type MeasurementReply = components["schemas"]["MeasurementOut"];
export type Probe = components["schemas"]["ProbeOut"];

/** What the server says when something cannot be had: one sentence, a stable code. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    sentence: string,
  ) {
    super(sentence);
  }
}

export function csrfToken(): string {
  return /(?:^|; )csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? "";
}

export const client = createClient<paths>({ baseUrl: "/" });
client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", csrfToken());
    return request;
  },
});

interface Reply<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of a reply, or a Refusal with the server's own sentence. */
export async function unwrap<T>(reply: Promise<Reply<T>>): Promise<T> {
  const { data, error, response } = await reply.catch(() => {
    throw new Refusal(0, "offline", "Gelvet does not answer; is it still running on this machine?");
  });
  if (data !== undefined && response.ok) return data;
  throw refusalOf(response.status, error);
}

export function refusalOf(status: number, body: unknown): Refusal {
  const problem = (typeof body === "object" && body !== null ? body : {}) as { code?: string; title?: string };
  return new Refusal(status, problem.code ?? "fault", problem.title ?? `Gelvet answered with a fault (${status}).`);
}
