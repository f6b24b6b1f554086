import type { Pair, Swatch } from "../../lib/api/client";
import type { SwatchFigures } from "../../lib/api/measurement";
import { figureRows } from "../../lib/figures";
import { fineEnough } from "../../lib/figures/row";
import { signed } from "../../lib/format";

type Difference = Pair["differences"][number];

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

const decimals: Record<string, number> = { mm: 2, "mm²": 0, "1": 2, "mm² per cm²": 3 };

/** How a difference is written: what has no unit is a share, in hundredths; of unit 1 is a plain number. */
function scaleOf(unit: string): { by: number; unit: string; digits: number } {
  if (!unit) return { by: 100, unit: " %", digits: 1 };
  const written = unit === "1" ? "" : unit === "°" ? unit : ` ${unit}`;
  return { by: 1, unit: written, digits: decimals[unit] ?? 1 };
}

/** A difference with its uncertainty, or that one of the two has no such figure. */
export function differenceText(d: Difference): string {
  if (d.difference === null) return "absent";
  const shown = scaleOf(d.unit);
  const digits = fineEnough(shown.digits, d.u, shown.by);
  const u = d.u === null ? "" : ` ± ${(d.u * shown.by).toFixed(digits)}`;
  return `${signed(d.difference * shown.by, digits)}${u}${shown.unit}`;
}

/** How far beyond doubt a difference is, in units of its combined uncertainty (k = 1). */
export function doubtText(d: Difference): string {
  if (!d.real) return "not real: within twice its uncertainty";
  return d.times_u === null
    ? ""
    : `${d.times_u < 10 ? d.times_u.toFixed(1) : d.times_u.toFixed(0)} times its uncertainty`;
}
