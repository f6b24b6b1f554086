import type { Card } from "./api/client";

export interface Step {
  title: string;
  href: string;
}

/** The one thing to do next with a card, which stands at `stage` where it was not captured yet. */
export function nextStep(card: Card, stage = "to paint"): Step {
  const capture = card.captures.at(-1);
  if (!capture) {
    if (stage === "to paint") return { title: "Print and paint", href: `/card/${card.card_id}` };
    if (stage === "dry and due") return { title: "Capture", href: `/capture/${card.card_id}` };
    return { title: "Go on painting", href: `/paint/${card.card_id}` };
  }
  if (capture.state === "done" && !capture.gates.some((g) => g.state === "fail"))
    return { title: "Look", href: `/look/${capture.id}` };
  if (capture.state === "queued" || capture.state === "running")
    return { title: "Watch", href: `/capture/${card.card_id}` };
  return { title: "See what is wrong", href: `/capture/${card.card_id}` };
}
