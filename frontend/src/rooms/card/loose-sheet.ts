import type { LayoutDocument, LayoutZone } from "../../lib/api/measurement";
import type { Rect } from "./zones";

/** A sheet without a printed card: what a person does to its proposed zones. All of it gives a new layout. */
export type Point = [number, number];
export interface LooseSheet extends LayoutDocument {
  placement: { corners_px: [Point, Point, Point, Point]; image_px: Point; scale: string };
}

const LEAST_MM = 2;
const NEW_MM = 10;
/** What a swatch's zones may be; those that need ink, layers or a lamp are for printed cards. */
export const KINDS = ["masstone", "wash", "gradient", "lifted", "unlifted", "over_ink", "beside_ink", "ink", "paper"];
export const AXES: Record<string, string> = {
  "+x": "pales to the right",
  "-x": "pales to the left",
  "+y": "pales downwards",
  "-y": "pales upwards",
};

const round = (value: number) => Math.round(value * 100) / 100;

function numbered(taken: Iterable<string>, name: (number: number) => string): string {
  const known = new Set(taken);
  let number = 1;
  while (known.has(name(number))) number += 1;
  return name(number);
}

const newSwatch = (sheet: LooseSheet) =>
  numbered(
    sheet.zones.map((z) => z.swatch ?? ""),
    (n) => `S${n}`,
  );

function named(zones: LayoutZone[], swatch: string | null, kind: string): string {
  const ids = zones.map((z) => z.id);
  if (swatch === null) return numbered(ids, (n) => `${kind}.${n}`);
  return ids.includes(`${swatch}.${kind}`) ? numbered(ids, (n) => `${swatch}.${kind}.${n + 1}`) : `${swatch}.${kind}`;
}

/** Zones keep their swatches; swatches that no zone names any more are gone. */
function withZones(sheet: LooseSheet, zones: LayoutZone[]): LooseSheet {
  const left = new Set(zones.map((z) => z.swatch));
  const listed = sheet.swatches.filter((s) => left.has(s.id));
  const more = [...left].filter((s): s is string => s !== null && !listed.some((l) => l.id === s));
  return { ...sheet, zones, swatches: [...listed, ...more.map((id) => ({ id, label: "" }))] };
}

export function placed(sheet: LooseSheet, id: string, rect: Rect): LooseSheet {
  const within = rect.map(round) as Rect;
  return { ...sheet, zones: sheet.zones.map((z) => (z.id === id ? { ...z, rect_mm: within } : z)) };
}

export function withoutZones(sheet: LooseSheet, ids: readonly string[]): LooseSheet {
  return withZones(
    sheet,
    sheet.zones.filter((z) => !ids.includes(z.id)),
  );
}

/** A zone cut in two across its longer side; the second half is a swatch of its own. */
export function divided(sheet: LooseSheet, id: string): LooseSheet {
  const zone = sheet.zones.find((z) => z.id === id);
  if (!zone) return sheet;
  const [x, y, w, h] = zone.rect_mm;
  const across = w >= h;
  const half = (across ? w : h) / 2;
  if (half < LEAST_MM) return sheet;
  const first: Rect = across ? [x, y, half, h] : [x, y, w, half];
  const second: Rect = across ? [x + half, y, half, h] : [x, y + half, w, half];
  const swatch = zone.swatch === null ? null : newSwatch(sheet);
  const kept = placed(sheet, id, first).zones;
  const other = { ...zone, id: named(kept, swatch, zone.kind), swatch, rect_mm: second.map(round) as Rect };
  return withZones(sheet, [...kept, other]);
}

/** Zones that are of one paint: all go to the swatch of the first. */
export function joined(sheet: LooseSheet, ids: readonly string[]): LooseSheet {
  const swatch = sheet.zones.find((z) => ids.includes(z.id) && z.swatch !== null)?.swatch;
  if (!swatch) return sheet;
  const zones: LayoutZone[] = [];
  for (const zone of sheet.zones) {
    if (!ids.includes(zone.id) || zone.swatch === null || zone.swatch === swatch) zones.push(zone);
    else zones.push({ ...zone, swatch, id: named([...zones, ...sheet.zones], swatch, zone.kind) });
  }
  return withZones(sheet, zones);
}

/** What a zone is; paper belongs to no swatch, and a gradient has a direction. */
export function asKind(sheet: LooseSheet, id: string, kind: string): LooseSheet {
  const zones = sheet.zones.map((zone) => {
    if (zone.id !== id) return zone;
    const swatch = kind === "paper" ? null : (zone.swatch ?? newSwatch(sheet));
    const others = sheet.zones.filter((z) => z.id !== id);
    const { axis, ...rest } = zone;
    const direction = kind === "gradient" ? { axis: axis ?? (zone.rect_mm[2] >= zone.rect_mm[3] ? "+x" : "+y") } : {};
    return { ...rest, ...direction, kind, swatch, id: named(others, swatch, kind) };
  });
  return withZones(sheet, zones);
}

export function pointing(sheet: LooseSheet, id: string, axis: string): LooseSheet {
  return { ...sheet, zones: sheet.zones.map((z) => (z.id === id ? { ...z, axis } : z)) };
}

/** A new zone in the middle of the sheet, of a swatch of its own. */
export function added(sheet: LooseSheet): { sheet: LooseSheet; id: string } {
  const [width, height] = sheet.size_mm;
  const side = Math.min(NEW_MM, width / 3, height / 3);
  const swatch = newSwatch(sheet);
  const id = named(sheet.zones, swatch, "masstone");
  const rect: Rect = [round(width / 2 - side / 2), round(height / 2 - side / 2), round(side), round(side)];
  return { sheet: withZones(sheet, [...sheet.zones, { id, swatch, kind: "masstone", rect_mm: rect }]), id };
}

/** The same picture in other millimetres: two points `before` apart are `after` apart in truth. */
export function rescaled(sheet: LooseSheet, before: number, after: number): LooseSheet {
  const factor = after / before;
  if (!Number.isFinite(factor) || factor <= 0) return sheet;
  return {
    ...sheet,
    size_mm: sheet.size_mm.map((v) => Math.round(v * factor * 1000) / 1000) as [number, number],
    zones: sheet.zones.map((z) => ({ ...z, rect_mm: z.rect_mm.map((v) => round(v * factor)) as Rect })),
    placement: { ...sheet.placement, scale: "clicks" },
  };
}

export function isLooseSheet(value: unknown): value is LooseSheet {
  const sheet = value as Partial<LooseSheet> | null;
  return Array.isArray(sheet?.placement?.corners_px) && Array.isArray(sheet.zones) && Array.isArray(sheet.size_mm);
}
