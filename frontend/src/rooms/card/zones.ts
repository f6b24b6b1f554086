export type Rect = [number, number, number, number];

const STEP_MM = 0.5;
const LEAST_MM = 2;

/** Where a pointer is on a drawing whose view box is `width` by `height`. */
export function pointOn(drawing: SVGSVGElement, event: PointerEvent, width: number, height: number): [number, number] {
  const box = drawing.getBoundingClientRect();
  return [((event.clientX - box.left) / box.width) * width, ((event.clientY - box.top) / box.height) * height];
}

/** The rectangle after an arrow key: moved by half a millimetre, or with shift its size changed; null for other keys. */
export function nudged([x, y, width, height]: Rect, key: string, resize: boolean): Rect | null {
  const steps: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  const step = steps[key];
  if (!step) return null;
  const [dx, dy] = [step[0] * STEP_MM, step[1] * STEP_MM];
  return resize
    ? [x, y, Math.max(LEAST_MM, width + dx), Math.max(LEAST_MM, height + dy)]
    : [Math.max(0, x + dx), Math.max(0, y + dy), width, height];
}

/** Whether something that was kept in the browser is a set of moved zones. */
export function isMoves(value: unknown): value is Record<string, Rect> {
  return (
    typeof value === "object" &&
    value !== null &&
    Object.values(value).every((r) => Array.isArray(r) && r.length === 4 && r.every((n) => typeof n === "number"))
  );
}
