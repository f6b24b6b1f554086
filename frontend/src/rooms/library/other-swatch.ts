import type { Replicate } from "../../lib/api/client";

type Newest = Pick<Replicate, "card_id" | "swatch">;
type Other = Pick<Replicate, "card_id" | "swatch" | "replicate" | "real" | "obstacles">;

/** What another measured swatch of a paint is to the newest one, in words. */
export function standing(newest: Newest, other: Other): string {
  if (!other.replicate)
    return other.obstacles
      .filter((o) => o.weight !== "notes")
      .map((o) => o.sentence)
      .join(" ");
  if (newest.card_id === other.card_id && newest.swatch === other.swatch)
    return `the same swatch, captured again${other.real ? " △ the two captures differ by more than can be told" : ""}`;
  return `a replicate${other.real ? " △ departs from it by more than can be told" : ""}`;
}
