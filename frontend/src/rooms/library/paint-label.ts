import type { Paint } from "../../lib/api/client";
import type { components } from "../../lib/api/schema";

type Sent = components["schemas"]["PaintLabel"];
/** A paint's label with every field there, so that a form can hold it. */
export type PaintLabel = Required<Sent> & { claims: Record<string, string>; pigments: string[] };

const nothing: PaintLabel = {
  maker: "",
  name: "",
  pigments: [],
  form: "tube",
  range: "",
  place: null,
  series: "",
  size_ml: "",
  price: "",
  currency: "",
  batch: "",
  hazards: "",
  claims: {},
  sparkles: false,
  owned: true,
  note: "",
};

/** The label of `paint` as a copy to write on; an empty one without it. */
export function labelOf(paint: Paint | undefined): PaintLabel {
  const copy = { ...nothing, claims: {}, pigments: [] } as PaintLabel;
  if (!paint) return copy;
  for (const key of Object.keys(nothing) as (keyof PaintLabel)[]) Object.assign(copy, { [key]: paint[key] });
  return { ...copy, claims: { ...paint.claims }, pigments: [...paint.pigments] };
}

/** Codes parted as people part them: by commas, semicolons, or a blank before the next P. */
export function splitCodes(text: string): string[] {
  return text
    .split(/[,;]+|\s+(?=[Pp])/)
    .map((code) => code.trim())
    .filter(Boolean);
}

/** Whether something that was kept in the browser is a label of today's make. */
export function isLabel(value: unknown): value is PaintLabel {
  const label = value as Partial<PaintLabel> | null;
  return (
    typeof label === "object" &&
    label !== null &&
    typeof label.name === "string" &&
    Array.isArray(label.pigments) &&
    typeof label.claims === "object"
  );
}
