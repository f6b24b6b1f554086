import type { Swatch } from "./api/client";

type Crops = Swatch["crops"];

const drawnOut = ["masstone", "gradient", "wash"];
const inPatches = ["masstone", "step", "wash"];

/** The zones that show a paint's way from masstone to wash, whichever school it was laid out by: of patches, all. */
export function wayOf(crops: Crops): string[] {
  if (crops["gradient"]) return drawnOut.filter((kind) => crops[kind]);
  const kinds = Object.keys(crops);
  return inPatches.flatMap((wanted) => kinds.filter((kind) => kind.split(":")[0] === wanted));
}

/** What these zones are, for a caption. */
export function wayInWords(crops: Crops): string {
  if (crops["gradient"]) return "masstone, drawn out, wash";
  if (crops["step"]) return "masstone, dilution steps, wash";
  return crops["wash:2"] ? "masstone, heavy and light patch" : "masstone, wash";
}
