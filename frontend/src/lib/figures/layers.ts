import type { SwatchFigures } from "../api/measurement";
import { rare, row, type FigureRow } from "./row";

/** How far the nearest other class is, where that is near enough to matter. */
function toNext(next: { class: string; away: number } | null | undefined): string {
  return next && next.away < 0.03 ? `, ${(next.away * 100).toFixed(1)} % from ${next.class}` : "";
}

function asStrong(relative: number | null | undefined): string | null {
  if (relative == null) return null;
  return relative === 1 ? "the reference itself" : `in tints ${relative.toFixed(1)} × as strong as the reference`;
}

/** What a layer of paint tints, hides, gives up, and does in water. */
export function layerRows(f: SwatchFigures): FigureRow[] {
  const { hiding, lifting } = f;
  return [
    row({
      key: "strength",
      title: "tinting strength",
      value: f.strength?.slope,
      u: f.strength?.u ?? null,
      digits: 2,
      unit: " K/S",
      absent: f.strength?.absent,
      zone: "step",
    }),
    ...rare([
      {
        key: "relative_strength",
        title: "of the reference's",
        value: f.strength?.relative,
        u: f.strength?.relative_u,
        digits: 0,
        unit: " %",
        scale: 100,
        zone: "step",
      },
      {
        key: "half_light",
        title: "paint that halves the light",
        value: f.strength?.half_light?.fraction,
        u: f.strength?.half_light?.u ?? null,
        digits: 1,
        unit: " %",
        scale: 100,
        note: asStrong(f.strength?.half_light?.relative),
        zone: "step",
      },
    ]),
    row({
      key: "veil",
      title: "veil over ink",
      value: hiding.veil,
      u: hiding.u,
      digits: 1,
      unit: " %",
      scale: 100,
      note: hiding.class && `${hiding.class}${toNext(hiding.next_class)}`,
      absent: hiding.absent,
      zone: "over_ink",
    }),
    ...rare([
      {
        key: "glinting_veil",
        title: "with its glints",
        value: hiding.glinting_veil,
        u: hiding.glinting_veil_u,
        digits: 1,
        unit: " %",
        scale: 100,
        zone: "over_ink",
      },
      {
        key: "wash_veil",
        title: "in a wash",
        value: hiding.wash?.veil,
        u: hiding.wash?.u ?? null,
        digits: 1,
        unit: " %",
        scale: 100,
        zone: "over_ink:2",
      },
    ]),
    row({
      key: "hiding",
      title: "hiding",
      value: hiding.hiding,
      u: hiding.hiding_u,
      digits: 0,
      unit: " %",
      scale: 100,
      absent: hiding.absent,
      zone: "beside_ink",
    }),
    row({
      key: "removed",
      title: "share lifted",
      value: lifting.removed,
      u: lifting.u,
      digits: 0,
      unit: " %",
      scale: 100,
      absent: lifting.absent,
      note:
        lifting.class &&
        `${lifting.class === "non-staining" ? lifting.class : `${lifting.class} staining`}${toNext(lifting.next_class)}`,
      zone: "lifted",
    }),
    row({
      key: "residual",
      title: "left after lifting",
      value: lifting.residual_de00,
      u: lifting.residual_de00_u,
      digits: 1,
      unit: " ΔE00",
      absent: lifting.absent,
      zone: "lifted",
    }),
    ...rare([
      {
        key: "drying",
        title: "drying shift",
        value: f.drying?.masstone?.delta_e00,
        u: f.drying?.masstone?.u ?? f.drying?.u ?? null,
        digits: 1,
        unit: " ΔE00",
        absent: f.drying?.absent,
        zone: "masstone",
      },
      {
        key: "wet_drop",
        title: "a drop runs",
        value: f.wet_drop?.reach_mm,
        u: f.wet_drop?.u ?? null,
        digits: 1,
        unit: " mm",
        zone: "wet_drop",
      },
      {
        key: "water_drop",
        title: "a drop of water clears",
        value: f.water_drop?.area_mm2,
        u: f.water_drop?.area_u,
        digits: 0,
        unit: " mm²",
        zone: "water_drop",
      },
      {
        key: "tilt",
        title: "parts on a tilted strip",
        value: f.tilt?.parted,
        u: f.tilt?.parted_u,
        digits: 1,
        unit: " ΔE",
        zone: "tilt",
      },
    ]),
  ];
}
