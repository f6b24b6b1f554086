import type { Light } from "../../lib/api/client";
import { sendInParts } from "../../lib/api/resumable";

export interface Outcome {
  name: string;
  share: number;
  sentence: string;
  problem: boolean;
}

/** Files on their way, one after the other, each with its own line of outcome: to one card, or to the inbox. */
export class Uploads {
  outcomes = $state<Outcome[]>([]);

  constructor(
    private readonly card: () => string | null,
    private readonly light: () => Light,
    private readonly arrived: () => void,
  ) {}

  async add(files: Iterable<File>): Promise<void> {
    for (const file of [...files]) {
      this.outcomes.push({ name: file.name, share: 0, sentence: "on its way", problem: false });
      const line = this.outcomes.at(-1)!;
      try {
        const { taken, arrivals } = await sendInParts(
          file,
          { card_id: this.card(), light: this.light() },
          (share, waiting) => {
            line.share = share;
            line.sentence = waiting ? "the connection broke; it goes on from here when it is back" : "on its way";
          },
        );
        if (taken) {
          line.sentence = taken.known
            ? `is known already: it was captured before as number ${taken.capture.id}; that result is below.`
            : "is stored, and waits to be measured.";
        } else {
          line.sentence =
            arrivals.length === 1 ? arrivals[0]!.outcome : `${arrivals.length} lines of outcome, at the side`;
          line.problem = arrivals.some((a) => a.card_id === null);
        }
      } catch (problem) {
        line.sentence = (problem as Error).message;
        line.problem = true;
      }
      line.share = 1;
      this.arrived();
    }
  }
}
