import type { Paint, Plan, Session } from "../../lib/api/client";

/** A session being planned: what stands on the page, and the revision that it started from. */
export class PlanDraft {
  name = $state("");
  question = $state("");
  paper = $state("");
  sheet = $state("A5");
  note = $state("");
  paints = $state<number[]>([]);
  revision = $state(0);

  constructor(session?: Session) {
    if (session) this.take(session);
  }

  take(session: Session): void {
    this.name = session.name;
    this.question = session.question;
    this.paper = session.paper === null ? "" : String(session.paper);
    this.sheet = session.sheet;
    this.note = session.note;
    this.paints = [...session.paints];
    this.revision = session.revision;
  }

  get plan(): Plan {
    return {
      name: this.name,
      question: this.question,
      paper: this.paper === "" ? null : Number(this.paper),
      sheet: this.sheet,
      note: this.note,
      paints: this.paints,
    };
  }

  toggle(paint: number): void {
    this.paints = this.paints.includes(paint) ? this.paints.filter((p) => p !== paint) : [...this.paints, paint];
  }

  move(index: number, by: number): void {
    this.paints = moved(this.paints, index, index + by);
  }
}

/** The list with the item at `from` put at `to`; out of range leaves it alone. */
export function moved<T>(items: readonly T[], from: number, to: number): T[] {
  const result = [...items];
  if (to < 0 || to >= items.length || from < 0 || from >= items.length) return result;
  result.splice(to, 0, ...result.splice(from, 1));
  return result;
}

/** Whether a paint answers to the words typed: name, maker or pigment code. */
export function matches(paint: Paint, words: string): boolean {
  const text = `${paint.name} ${paint.maker} ${paint.pigments.join(" ")}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}
