import { client, unwrap, Refusal, type Light, type Uploaded } from "./client";
import { sendForm } from "./send-form";

const PART_BYTES = 4 << 20;
const PATIENCE_MS = [500, 1000, 2000, 4000, 8000, 15000];

/** Where a finished file goes: to one card, or without one to the inbox, which sorts it. */
export interface Destination {
  card_id: string | null;
  light: Light;
}

type Progress = (share: number, waiting: boolean) => void;

/** Sends `file` in parts, to a card or to the inbox; progress from 0 to 1. */
export async function sendInParts(
  file: File,
  to: Destination,
  progress: Progress = () => undefined,
  patience: readonly number[] = PATIENCE_MS,
): Promise<Uploaded> {
  const path = { key: await sendParts(file, progress, patience) };
  return unwrap(client.POST("/api/uploads/{key}/finish", { params: { path }, body: to }));
}

/** Sends the image of a sheet without a printed card in parts; the card that it becomes, once its swatches were looked for. */
export async function sendSheet(file: File, progress: Progress): Promise<string> {
  const path = { key: await sendParts(file, progress, PATIENCE_MS) };
  const taken = await unwrap(client.POST("/api/uploads/{key}/sheet", { params: { path } }));
  return taken.card_id;
}

/** The upload's key once all of `file` has come, going on from what has arrived when the connection breaks. */
async function sendParts(file: File, progress: Progress, patience: readonly number[]): Promise<string> {
  const upload = await unwrap(client.POST("/api/uploads", { body: { name: file.name, size: file.size } }));
  const path = { key: upload.key };
  let received = 0;
  let failures = 0;
  while (received < file.size) {
    try {
      const start = received;
      const part = new File([file.slice(start, start + PART_BYTES)], file.name);
      const reply = await sendForm<{ received: number }>(
        `/api/uploads/${upload.key}/parts`,
        { file: part, offset: String(start) },
        (share) => progress((start + share * part.size) / file.size, false),
      );
      received = reply.received;
      failures = 0;
    } catch (problem) {
      if (!(problem instanceof Refusal) || problem.status !== 0) throw problem;
      const pause = patience[failures++];
      if (pause === undefined) throw problem;
      progress(received / file.size, true);
      await new Promise((done) => setTimeout(done, pause));
      received = await whatArrived(path, received);
    }
  }
  return upload.key;
}

/** How far the file has come; as far as was known where the server does not answer yet. */
async function whatArrived(path: { key: string }, known: number): Promise<number> {
  const { data } = await client.GET("/api/uploads/{key}", { params: { path } }).catch(() => ({ data: undefined }));
  return data?.received ?? known;
}
