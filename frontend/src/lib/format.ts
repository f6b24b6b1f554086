/** A figure with its uncertainty, both to the digits that the uncertainty bears. */
export function withUncertainty(value: number | null | undefined, u: number | null | undefined, digits = 1): string {
  if (value === null || value === undefined) return "–";
  const shown = value.toFixed(digits);
  return u === null || u === undefined ? shown : `${shown} ± ${u.toFixed(digits)}`;
}

export function signed(value: number, digits = 0): string {
  const size = Math.abs(value).toFixed(digits);
  return (Number(size) === 0 ? "" : value > 0 ? "+" : "−") + size;
}

export function labText(lab: readonly number[] | null | undefined): string {
  return lab ? lab.map((v) => (v < 0 ? "−" : "") + Math.abs(v).toFixed(1)).join("\u2002") : "–";
}

/** How wide and high a place (x, y, width, height in mm) is. */
export function sizeText([, , width, height]: readonly [number, number, number, number]): string {
  return `${width.toFixed(1)}\u00a0×\u00a0${height.toFixed(1)}\u00a0mm`;
}

/** A sentence whose figures stay on one line with their units. */
export function unbroken(sentence: string): string {
  return sentence.replace(/(\d) (?=%|L\*|C\*|ΔE|mm|cm)/g, "$1\u00a0");
}

/** A round length (mm) whose bar is close to the wanted number of pixels. */
export function barLength(pixelsPerMm: number, wantedPx = 120): number {
  const steps = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100];
  return steps.reduce((best, mm) =>
    Math.abs(Math.log((mm * pixelsPerMm) / wantedPx)) < Math.abs(Math.log((best * pixelsPerMm) / wantedPx)) ? mm : best,
  );
}

/** Minutes as people say them. */
export function minutesInWords(minutes: number): string {
  if (minutes < 60) return `${minutes} min`;
  const rest = Math.round((minutes % 60) / 5) * 5;
  const hours = Math.floor(minutes / 60) + (rest === 60 ? 1 : 0);
  return rest === 0 || rest === 60 ? `${hours} h` : `${hours} h ${rest} min`;
}

/** Seconds as a clock: 4:05, 1:02:00. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const hours = Math.floor(whole / 3600);
  return hours
    ? `${hours}:${two(Math.floor(whole / 60) % 60)}:${two(whole % 60)}`
    : `${Math.floor(whole / 60)}:${two(whole % 60)}`;
}

/** How long ago a day (YYYY-MM-DD) was, as people say it. */
export function howLongAgo(day: string, now = Date.now()): string {
  const days = Math.floor((now - Date.parse(day)) / 86_400_000);
  const [count, unit] =
    days < 60
      ? ([days, "day"] as const)
      : days < 730
        ? ([Math.round(days / 30.4), "month"] as const)
        : ([Math.round(days / 365.25), "year"] as const);
  return new Intl.RelativeTimeFormat("en-GB", { numeric: "auto" }).format(-count, unit);
}
