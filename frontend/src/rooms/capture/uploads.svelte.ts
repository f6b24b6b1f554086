import { csrfToken, refusalOf, type Capture } from "../../lib/api/client";

export interface Outcome {
  name: string;
  share: number;
  sentence: string;
  problem: boolean;
}

/** Files on their way to one card, one after the other, each with its own line of outcome. */
export class Uploads {
  outcomes = $state<Outcome[]>([]);

  constructor(
    private readonly card: () => string,
    private readonly arrived: () => void,
  ) {}

  async add(files: Iterable<File>): Promise<void> {
    for (const file of files) {
      this.outcomes.push({ name: file.name, share: 0, sentence: "on its way", problem: false });
      const line = this.outcomes.at(-1)!;
      try {
        const { capture, known } = await send(file, this.card(), (share) => (line.share = share));
        line.sentence = known
          ? `is known already: it was captured before as number ${capture.id}; that result is below.`
          : "is stored, and waits to be measured.";
      } catch (problem) {
        line.sentence = (problem as Error).message;
        line.problem = true;
      }
      line.share = 1;
      this.arrived();
    }
  }
}

/** One file by a request that reports its progress. */
function send(
  file: File,
  card: string,
  progress: (share: number) => void,
): Promise<{ capture: Capture; known: boolean }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/cards/${encodeURIComponent(card)}/captures`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => {
      if (event.lengthComputable) progress(event.loaded / event.total);
    };
    request.onerror = () => {
      reject(refusalOf(0, { title: `${file.name} did not arrive; is Gelvet still running? Drop it again.` }));
    };
    request.onload = () => {
      const body: unknown = parsed(request.responseText);
      if (request.status === 201) resolve(body as { capture: Capture; known: boolean });
      else reject(refusalOf(request.status, body));
    };
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}
