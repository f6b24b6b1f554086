import type { Paint, Pigment, Plan, Session } from "../../lib/api/client";

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

/** Listed pigments by code. */
export type PigmentList = ReadonlyMap<string, Pigment>;

/** A form such as PB15:3 is found under its main number. */
export function listed(pigments: PigmentList, code: string): Pigment | undefined {
  return pigments.get(code) ?? pigments.get(code.split(":")[0] ?? code);
}

/** Whether a paint answers to the words typed: its name, maker, pigment codes, and what its pigments are called and look like. */
export function matches(paint: Paint, words: string, pigments: PigmentList = new Map()): boolean {
  const known = paint.pigments.map((code) => listed(pigments, code)).map((p) => (p ? `${p.name} ${p.hue}` : ""));
  const text = `${paint.name} ${paint.maker} ${paint.pigments.join(" ")} ${known.join(" ")}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.includes(word));
}

/** A code as people type it in the list's own spelling: `pb 29` is PB29, `PBK9` is PBk9. */
export function tidyCode(code: string): string {
  const found = /^p(br|bk|[yorvbgwm])0*(\d{1,3})((?::\d{1,2})?)$/i.exec(code.replaceAll(/[\s.]+/g, ""));
  if (!found) return code.trim();
  const letters = found[1] ?? "";
  return `P${letters.charAt(0).toUpperCase()}${letters.slice(1).toLowerCase()}${found[2] ?? ""}${found[3] ?? ""}`;
}

/** What to say beside a code while it is being typed. */
export function codeNote(pigments: PigmentList, code: string): string {
  const tidy = tidyCode(code);
  if (!/^P(?:[YORVBGWM]|Br|Bk)\d{1,3}(?::\d{1,2})?$/.test(tidy))
    return `${code} is no pigment code; they look like PB29 or PBr7`;
  const found = listed(pigments, tidy);
  if (!found) return `${tidy}: not in Gelvet's list; check it against the label`;
  return `${tidy}: ${found.name}, ${found.character.join(", ")}${found.metal ? `; holds ${found.metal}` : ""}`;
}
