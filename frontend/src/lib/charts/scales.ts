import { scaleLinear } from "d3-scale";
import type { Lab } from "../api/measurement";

/** Half the width of the a*b* plane that holds every point with a margin, on a round figure. */
export function planeReach(labs: readonly Lab[]): number {
  const furthest = Math.max(20, ...labs.map((lab) => Math.hypot(lab[1], lab[2])));
  return Math.ceil((furthest + 6) / 20) * 20;
}

export function linear(domain: [number, number], range: [number, number]) {
  return scaleLinear().domain(domain).range(range);
}

/** Points of an SVG polyline. */
export function polyline(points: readonly (readonly [number, number])[]): string {
  return points.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ");
}

export function hueDeg(lab: Lab): number {
  return ((((Math.atan2(lab[2], lab[1]) * 180) / Math.PI) % 360) + 360) % 360;
}

/** SVG path of the arc that hue runs through from `fromDeg` by `turnDeg` (+ anticlockwise, as a*b* is drawn). */
export function hueArc(centre: number, radius: number, fromDeg: number, turnDeg: number): string {
  const steps = Math.max(2, Math.ceil(Math.abs(turnDeg) / 4));
  const points = Array.from({ length: steps + 1 }, (_, i) => {
    const angle = ((fromDeg + (turnDeg * i) / steps) * Math.PI) / 180;
    return `${(centre + radius * Math.cos(angle)).toFixed(1)},${(centre - radius * Math.sin(angle)).toFixed(1)}`;
  });
  return `M${points.join("L")}`;
}

/** Screen pixels a millimetre at which zones of these crops fill a width, at most `most`. */
export function fillingScale(
  crops: readonly ({ width_mm: number } | undefined)[],
  widthPx: number,
  most: number,
): number {
  const total = crops.reduce((sum, crop) => sum + (crop?.width_mm ?? 0), 0);
  return total > 0 && widthPx > 0 ? Math.min(most, widthPx / total) : most;
}
