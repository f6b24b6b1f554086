import { describe, expect, it } from "vitest";
import type { Session } from "../../lib/api/client";
import { PlanDraft } from "./plan.svelte";

const session = {
  name: "Shore blues",
  question: "which-maker",
  paper: 3,
  sheet: "A4",
  note: "n",
  paints: [5, 6],
  revision: 4,
} as Session;

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

  it("says nothing of the paper where none is chosen", () => {
    const draft = new PlanDraft();
    expect(draft.plan.paper).toBeNull();
    draft.paper = "3";
    expect(draft.plan.paper).toBe(3);
  });
});
