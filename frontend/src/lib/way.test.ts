import { describe, expect, it } from "vitest";
import type { Swatch } from "./api/client";
import { wayInWords, wayOf } from "./way";

const crop = {} as Swatch["crops"][string];
const of = (...kinds: string[]): Swatch["crops"] => Object.fromEntries(kinds.map((kind) => [kind, crop]));

describe("a paint's way from masstone to wash", () => {
  it("is shown whole by whichever school it was laid out", () => {
    const schools: [Swatch["crops"], string[], string][] = [
      [of("wash", "gradient", "masstone", "over_ink"), ["masstone", "gradient", "wash"], "masstone, drawn out, wash"],
      [of("masstone", "wash", "wash:2"), ["masstone", "wash", "wash:2"], "masstone, heavy and light patch"],
      [
        of("masstone", "wash", "step", "step:2", "over_ink", "step:3", "step:4", "step:5"),
        ["masstone", "step", "step:2", "step:3", "step:4", "step:5", "wash"],
        "masstone, dilution steps, wash",
      ],
      [of("masstone", "gradient", "step", "wash"), ["masstone", "gradient", "wash"], "masstone, drawn out, wash"],
    ];
    for (const [crops, kinds, words] of schools) {
      expect(wayOf(crops)).toEqual(kinds);
      expect(wayInWords(crops)).toBe(words);
    }
  });
});
