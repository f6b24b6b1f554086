import { signed } from "../format";

/** One measured figure as a table shows it: its text with uncertainty, or why it is absent, and the zone it came from. */
export interface FigureRow {
  key: string;
  title: string;
  value: number | null;
  u: number | null;
  text: string;
  /** The class that the figure falls in, where there is one. */
  note: string | null;
  absent: string | null;
  zone: string;
}

export interface FigureSpec {
  key: string;
  title: string;
  value: number | null | undefined;
  u?: number | null;
  digits: number;
  unit?: string;
  sign?: boolean;
  scale?: number;
  note?: string | null;
  absent?: string | null;
  zone: string;
}

/** So many digits that an uncertainty is not written as none; two more at most. */
export function fineEnough(digits: number, u: number | null, scale: number): number {
  if (!u || Number((u * scale).toFixed(digits)) > 0) return digits;
  return Math.min(Math.ceil(-Math.log10(u * scale)), digits + 2);
}

/** The row of one figure; its reason where it has no value. */
export function row({
  key,
  title,
  value,
  u = null,
  digits,
  unit = "",
  sign = false,
  scale = 1,
  note = null,
  absent = null,
  zone,
}: FigureSpec): FigureRow {
  if (value === null || value === undefined) {
    return { key, title, value: null, u: null, text: "", note: null, absent: absent ?? "not measured", zone };
  }
  const places = fineEnough(digits, u, scale);
  const shown = sign ? signed(value * scale, places) : (value * scale).toFixed(places);
  const spread = u === null ? "" : ` ± ${(u * scale).toFixed(places)}`;
  return { key, title, value, u, text: `${shown}${spread}${unit}`, note, absent: null, zone };
}

/** Figures of tests that most cards do not have: left out where there is none. */
export function rare(specs: FigureSpec[]): FigureRow[] {
  return specs.filter((spec) => (spec.value ?? spec.absent ?? null) !== null).map(row);
}

/** The figure with its class, as a notebook shows it. */
export function figureText(row: FigureRow): string {
  return row.note ? `${row.text} · ${row.note}` : row.text;
}
