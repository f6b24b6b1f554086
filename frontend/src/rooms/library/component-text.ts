import type { SwatchFigures } from "../../lib/api/measurement";
import { labText } from "../../lib/format";

/** One of two components under its picture: its share and, on a line of its own, its colour, as sure as they are; files of
 * earlier versions do not say how sure. */
export function componentText(f: SwatchFigures, number: number): string {
  const part = f.separation?.components[number];
  if (!part) return "";
  const unsure = (u: number | null | undefined, digits: number): string =>
    u == null ? "" : `\u00a0±\u00a0${u.toFixed(digits)}`;
  const share = `${(100 * part.share).toFixed(0)}${unsure(part.share_u == null ? null : 100 * part.share_u, 0)}\u00a0%`;
  return `${share} of the depth, ${labText(part.lab).replaceAll("\u2002", "\u2007")}${unsure(part.u, 1)}`;
}
