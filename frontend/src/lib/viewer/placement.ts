/** Where the card lies on the screen: card millimetres to pixels of the viewer, a scale and a shift. */
export interface Placement {
  pixelsPerMm: number;
  left: number;
  top: number;
}

export type RectMm = readonly [x: number, y: number, width: number, height: number];

export function toScreen(placement: Placement, x: number, y: number): [number, number] {
  return [placement.left + x * placement.pixelsPerMm, placement.top + y * placement.pixelsPerMm];
}

export function toCard(placement: Placement, x: number, y: number): [number, number] {
  return [(x - placement.left) / placement.pixelsPerMm, (y - placement.top) / placement.pixelsPerMm];
}

export function holds([x, y, width, height]: RectMm, px: number, py: number): boolean {
  return px >= x && py >= y && px <= x + width && py <= y + height;
}

/** Whether a point in millimetres lies on the card. */
export function onCard(size: readonly [number, number], x: number, y: number): boolean {
  return x >= 0 && y >= 0 && x <= size[0] && y <= size[1];
}
