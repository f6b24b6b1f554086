import type { Swatch } from "./api/client";

type Crops = Swatch["crops"];

/** The zones that show a paint's way from masstone to wash, whichever school it was laid out by. */
export function wayOf(crops: Crops): string[] {
  const wanted = crops["gradient"]
    ? ["masstone", "gradient", "wash"]
    : ["masstone", "step", "step:2", "step:3", "step:4", "wash", "wash:2"];
  return wanted.filter((kind) => crops[kind]);
}

/** What these zones are, for a caption. */
export function wayInWords(crops: Crops): string {
  if (crops["gradient"]) return "masstone, drawn out, wash";
  if (crops["step"]) return "masstone, dilution steps, wash";
  return crops["wash:2"] ? "masstone, heavy and light patch" : "masstone, wash";
}
