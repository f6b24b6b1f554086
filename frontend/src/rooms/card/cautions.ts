import type { Paint } from "../../lib/api/client";

/** Colour-index codes whose pigments hold metals that call for care in dust and rinse water. */
const metals: { codes: readonly string[]; metal: string }[] = [
  { codes: ["PB28", "PB35", "PB36", "PB72", "PB74", "PG19", "PG26", "PG50", "PV14", "PV49", "PY40"], metal: "cobalt" },
  { codes: ["PY35", "PY37", "PO20", "PR108"], metal: "cadmium" },
  { codes: ["PG17", "PG18"], metal: "chromium" },
  { codes: ["PB33", "PV16", "PBr8", "PBk14"], metal: "manganese" },
  { codes: ["PY53", "PY150", "PY153"], metal: "nickel" },
  { codes: ["PB15", "PB30", "PG36", "PG7"], metal: "copper" },
  { codes: ["PW1", "PY34", "PR104"], metal: "lead" },
  { codes: ["PR106"], metal: "mercury" },
];

/** Plain reminders for the pigments on a card; label, data sheet and local rules come first. */
export function cautionsFor(paints: readonly Paint[]): string[] {
  const codes = new Set(paints.flatMap((p) => p.pigments.map((code) => code.split(":")[0] ?? code)));
  const named = metals.filter((m) => m.codes.some((code) => codes.has(code))).map((m) => m.metal);
  if (named.length === 0) return [];
  return [
    `These paints hold ${named.join(", ")} pigments: never sand, spray or handle them dry without the maker's precautions, and keep rinse water as local rules say.`,
    "No brush to the mouth, no food at the bench. The label and its safety data sheet come before anything said here.",
  ];
}
