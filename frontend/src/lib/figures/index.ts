import type { SwatchFigures } from "../api/measurement";
import { colourRows } from "./colour";
import { layerRows } from "./layers";
import type { FigureRow } from "./row";
import { textureRows } from "./texture";

export { figureText, type FigureRow } from "./row";

/** Every figure of a swatch, in the order of the measuring. */
export function figureRows(f: SwatchFigures): FigureRow[] {
  return [...colourRows(f), ...textureRows(f), ...layerRows(f)];
}
