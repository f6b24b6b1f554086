import type { Library, Paint, Pigment, Plan, Proposal, Question, Session } from "../../lib/api/client";

export type Target = "paints" | "partners";

/** A session being planned: what stands on the page, and the revision that it started from. */
export class PlanDraft {
  name = $state("");
  question = $state("");
  paper = $state("");
  sheet = $state("A5");
  note = $state("");
  paints = $state<number[]>([]);
  partners = $state<number[]>([]);
  papers = $state<number[]>([]);
  tests = $state<string[]>(["hiding", "lifting"]);
  application = $state("stroke");
  replicates = $state(1);
  arrangement = $state("hand");
  perCard = $state<number | null>(null);
  blankRows = $state(0);
  framed = $state(false);
  strengthReference = $state<number | null>(null);
  practice = $state<Record<string, string>>({});
  /** Why a paint was proposed; gone once the session is kept. */
  reasons = $state<Record<number, string>>({});
  revision = $state(0);

  constructor(session?: Session) {
    if (session) this.take(session);
  }

  /** The usual plan for a question, on the papers that are there. */
  begin(question: Question, library: Pick<Library, "papers" | "usual_paper">): void {
    this.question = question.id;
    this.papers = question.several_papers ? library.papers.map((p) => p.id) : [];
    this.paper = question.several_papers || library.usual_paper === null ? "" : String(library.usual_paper);
    this.sheet = question.sheet;
    this.tests = [...question.tests];
    this.application = question.application;
    this.replicates = question.replicates;
    this.arrangement = question.arrangement;
  }

  /** Takes up what was proposed; a name is suggested until the person has written one. */
  propose(proposal: Proposal, name: string): void {
    this.paints = proposal.paints.map((p) => p.paint);
    this.partners = proposal.partners.map((p) => p.paint);
    this.reasons = Object.fromEntries([...proposal.paints, ...proposal.partners].map((p) => [p.paint, p.reason]));
    if (name && (this.name === "" || this.name === this.#suggested)) this.name = this.#suggested = name;
  }
  #suggested = "";

  take(session: Session): void {
    this.write(session);
    this.revision = session.revision;
  }

  /** Writes a plan onto the page; the revision that it started from stays. */
  write(session: Required<Plan>): void {
    this.name = session.name;
    this.question = session.question;
    this.paper = session.paper === null ? "" : String(session.paper);
    this.sheet = session.sheet;
    this.note = session.note;
    this.paints = [...session.paints];
    this.partners = [...session.partners];
    this.papers = [...session.papers];
    this.tests = [...session.tests];
    this.application = session.application;
    this.replicates = session.replicates;
    this.arrangement = session.arrangement;
    this.perCard = session.per_card;
    this.blankRows = session.blank_rows;
    this.framed = session.framed;
    this.strengthReference = session.strength_reference;
    this.practice = { ...session.practice };
  }

  get plan(): Plan {
    return {
      name: this.name,
      question: this.question,
      paper: this.paper === "" ? null : Number(this.paper),
      sheet: this.sheet,
      note: this.note,
      paints: this.paints,
      partners: this.partners,
      papers: this.papers,
      tests: this.tests,
      application: this.application,
      replicates: this.replicates,
      arrangement: this.arrangement,
      per_card: this.perCard,
      blank_rows: this.blankRows,
      framed: this.framed,
      strength_reference:
        this.strengthReference !== null && this.paints.includes(this.strengthReference) ? this.strengthReference : null,
      practice: Object.fromEntries(Object.entries(this.practice).filter(([, value]) => value !== "")),
    };
  }

  toggle(paint: number, into: Target = "paints"): void {
    const list = this[into];
    this[into] = list.includes(paint) ? list.filter((p) => p !== paint) : [...list, paint];
  }

  /** Moving by hand is an order of its own. */
  move(index: number, by: number, within: Target = "paints"): void {
    this[within] = moved(this[within], index, index + by);
    this.arrangement = "hand";
  }
}

/** Whether something that was kept in the browser is a plan of today's make. */
export function isPlan(value: unknown): value is Required<Plan> {
  const plan = value as Partial<Plan> | null;
  return (
    typeof plan === "object" &&
    plan !== null &&
    typeof plan.question === "string" &&
    [plan.paints, plan.partners, plan.papers, plan.tests].every(Array.isArray) &&
    typeof plan.practice === "object"
  );
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
