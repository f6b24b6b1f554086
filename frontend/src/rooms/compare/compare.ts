import type { Pair, Swatch } from "../../lib/api/client";
import type { SwatchFigures } from "../../lib/api/measurement";
import { figureRows } from "../../lib/figures";

export const orders = [
  { value: "chosen", label: "as chosen" },
  { value: "hue", label: "hue of the half tint" },
  { value: "masstone", label: "masstone lightness" },
  { value: "wash", label: "wash lightness" },
  { value: "delta_h", label: "hue shift" },
  { value: "span_L", label: "value span" },
  { value: "granulation", label: "granulation" },
  { value: "grain_mm", label: "grain width" },
  { value: "veil", label: "veil over ink" },
  { value: "removed", label: "share lifted" },
] as const;

function sortKey(swatch: Swatch, by: string): number | null {
  const figures = swatch.figures as unknown as SwatchFigures;
  if (by === "hue") {
    const lab = figures.half.lab;
    return lab ? (Math.atan2(lab[2], lab[1]) * 180) / Math.PI : null;
  }
  return figureRows(figures).find((row) => row.key === by)?.value ?? null;
}

/** Swatches by one figure, smallest first; those without it come last, in the order chosen. */
export function sorted(swatches: readonly Swatch[], by: string): Swatch[] {
  if (by === "chosen") return [...swatches];
  const keyed = swatches.map((swatch, place) => ({ swatch, place, key: sortKey(swatch, by) }));
  keyed.sort((a, b) => {
    if (a.key === null || b.key === null)
      return (a.key === null ? 1 : 0) - (b.key === null ? 1 : 0) || a.place - b.place;
    return a.key - b.key;
  });
  return keyed.map((k) => k.swatch);
}

export function pairOf(pairs: readonly Pair[], one: number, two: number): Pair | undefined {
  return pairs.find((p) => (p.first === one && p.second === two) || (p.first === two && p.second === one));
}

/** How a difference is written: what has no unit is a share, and shares are written in hundredths. */
export function scaleOf(unit: string, key: string): { by: number; unit: string; digits: number } {
  return unit ? { by: 1, unit: ` ${unit}`, digits: key === "grain_mm" ? 2 : 1 } : { by: 100, unit: " %", digits: 1 };
}
