/** Where a low lamp may stand, as people say it; 0° is the card's right, 90° its foot. */
export const SIDES: { value: string; label: string }[] = [
  { value: "0", label: "the right" },
  { value: "45", label: "the right of the foot" },
  { value: "90", label: "the foot" },
  { value: "135", label: "the left of the foot" },
  { value: "180", label: "the left" },
  { value: "225", label: "the left of the head" },
  { value: "270", label: "the head" },
  { value: "315", label: "the right of the head" },
];

/** "lamp from the foot", or from an angle that no side has; "lamp from somewhere" where it was not told. */
export function lampFrom(azimuth: number | null): string {
  if (azimuth === null) return "lamp from somewhere";
  return `lamp from ${SIDES.find((s) => Number(s.value) === azimuth)?.label ?? `${azimuth}°`}`;
}
