/** A figure with its uncertainty, both to the digits that the uncertainty bears. */
export function withUncertainty(value: number | null | undefined, u: number | null | undefined, digits = 1): string {
  if (value === null || value === undefined) return "–";
  const shown = value.toFixed(digits);
  return u === null || u === undefined ? shown : `${shown} ± ${u.toFixed(digits)}`;
}

export function signed(value: number, digits = 0): string {
  return (value > 0 ? "+" : value < 0 ? "−" : "") + Math.abs(value).toFixed(digits);
}

export function labText(lab: readonly number[] | null | undefined): string {
  return lab ? lab.map((v) => (v < 0 ? "−" : "") + Math.abs(v).toFixed(1)).join("\u2002") : "–";
}

/** A round length (mm) whose bar is close to the wanted number of pixels. */
export function barLength(pixelsPerMm: number, wantedPx = 120): number {
  const steps = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];
  return steps.reduce((best, mm) =>
    Math.abs(Math.log((mm * pixelsPerMm) / wantedPx)) < Math.abs(Math.log((best * pixelsPerMm) / wantedPx)) ? mm : best,
  );
}
