import { describe, expect, it } from "vitest";
import type { Library, Pigment, Question, Session } from "../../lib/api/client";
import { codeNote, PlanDraft, tidyCode } from "./plan.svelte";

const session = {
  name: "Shore blues",
  question: "which-maker",
  paper: 3,
  sheet: "A4",
  note: "n",
  paints: [5, 6],
  partners: [],
  papers: [],
  tests: ["hiding"],
  application: "steps",
  replicates: 2,
  arrangement: "hue",
  per_card: null,
  blank_rows: 0,
  framed: false,
  strength_reference: 6,
  practice: { woken: "fresh" },
  revision: 4,
} as unknown as Session;

describe("a plan being written", () => {
  it("starts from the session and gives back the same plan", () => {
    const draft = new PlanDraft(session);
    const { revision, ...plan } = session;
    expect(draft.plan).toEqual(plan);
    expect(draft.revision).toBe(revision);
  });

  it("does not touch the session that it came from", () => {
    const draft = new PlanDraft(session);
    draft.toggle(9);
    draft.move(0, 1);
    expect(draft.paints).toEqual([6, 5, 9]);
    expect(session.paints).toEqual([5, 6]);
    draft.toggle(5);
    expect(draft.paints).toEqual([6, 9]);
  });

  it("compares strengths with a paint only while it is in the session", () => {
    const draft = new PlanDraft(session);
    draft.toggle(6);
    expect(draft.plan.strength_reference).toBeNull();
    draft.toggle(6);
    expect(draft.plan.strength_reference).toBe(6);
  });

  it("moved by hand no longer follows another order", () => {
    const draft = new PlanDraft(session);
    expect(draft.plan.arrangement).toBe("hue");
    draft.move(0, 1);
    expect(draft.plan.arrangement).toBe("hand");
  });

  it("begins as its question is usually asked, on the papers that are there", () => {
    const library = { papers: [{ id: 4 }, { id: 9 }], usual_paper: 9 } as Library;
    const question = { id: "paper", tests: ["hiding"], application: "stroke", replicates: 2, arrangement: "hand" };
    const draft = new PlanDraft();
    draft.begin({ ...question, several_papers: true } as Question, library);
    expect([draft.papers, draft.paper, draft.replicates]).toEqual([[4, 9], "", 2]);
    draft.begin({ ...question, id: "one-paint", several_papers: false } as Question, library);
    expect([draft.papers, draft.paper]).toEqual([[], "9"]);
  });

  it("suggests a name until one was written", () => {
    const draft = new PlanDraft();
    const nothing = { paints: [], partners: [] };
    draft.propose({ paints: [{ paint: 3, reason: "owned" }], partners: [] }, "First");
    expect([draft.name, draft.paints, draft.reasons[3]]).toEqual(["First", [3], "owned"]);
    draft.propose(nothing, "Second");
    expect(draft.name).toBe("Second");
    draft.name = "Mine";
    draft.propose(nothing, "Third");
    expect(draft.name).toBe("Mine");
  });

  it("says nothing of the paper where none is chosen", () => {
    const draft = new PlanDraft();
    expect(draft.plan.paper).toBeNull();
    draft.paper = "3";
    expect(draft.plan.paper).toBe(3);
  });
});

describe("codes as they are typed", () => {
  const list = new Map([
    ["PB15", { name: "copper phthalocyanine", character: ["transparent", "staining"], metal: "copper" } as Pigment],
  ]);

  it("are read in any common spelling", () => {
    expect(["pb 29", "PBK9", "pbr7", "p.r.101", "pb15:3", "PB029"].map(tidyCode)).toEqual([
      "PB29",
      "PBk9",
      "PBr7",
      "PR101",
      "PB15:3",
      "PB29",
    ]);
    expect(tidyCode("rose")).toBe("rose");
  });

  it("are explained, doubted or refused", () => {
    expect(codeNote(list, "pb15:3")).toBe("PB15:3: copper phthalocyanine, transparent, staining; holds copper");
    expect(codeNote(list, "PB99")).toContain("not in Gelvet's list");
    expect(codeNote(list, "rose")).toContain("is no pigment code");
  });
});
