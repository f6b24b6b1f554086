import { signed } from "./format";

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
  const shown = sign ? signed(value * scale, digits) : (value * scale).toFixed(digits);
  const spread = u === null ? "" : ` ± ${(u * scale).toFixed(digits)}`;
  return { key, title, value, u, text: `${shown}${spread}${unit}`, note, absent: null, zone };
}

/** The figure with its class, as a notebook shows it. */
export function figureText(row: FigureRow): string {
  return row.note ? `${row.text} · ${row.note}` : row.text;
}
