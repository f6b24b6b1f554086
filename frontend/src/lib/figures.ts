import type { SwatchFigures } from "./api/measurement";
import { row, type FigureRow, type FigureSpec } from "./figure-row";
import { labText } from "./format";

/** How far the nearest other class is, where that is near enough to matter. */
function toNext(next: { class: string; away: number } | null | undefined): string {
  return next && next.away < 0.03 ? `, ${(next.away * 100).toFixed(1)} % from ${next.class}` : "";
}

function asStrong(relative: number | null | undefined): string | null {
  if (relative == null) return null;
  return relative === 1 ? "the reference itself" : `in tints ${relative.toFixed(1)} × as strong as the reference`;
}

/** One of two components under its picture: its share and its colour, as sure as they are; of earlier files without that. */
export function componentText(f: SwatchFigures, number: number): string {
  const part = f.separation?.components[number];
  if (!part) return "";
  const unsure = (u: number | null | undefined, digits: number): string => (u == null ? "" : ` ± ${u.toFixed(digits)}`);
  return `${(100 * part.share).toFixed(0)}${unsure(part.share_u == null ? null : 100 * part.share_u, 0)} % of it; ${labText(part.lab)}${unsure(part.u, 1)}`;
}

/** Every figure of a swatch, in the order of the measuring. */
export function figureRows(f: SwatchFigures): FigureRow[] {
  const place = (key: "masstone" | "half" | "wash", title: string, zone: string): FigureRow => ({
    key,
    title,
    value: f[key].lab?.[0] ?? null,
    u: f[key].u ?? null,
    note: null,
    text: f[key].lab ? `${labText(f[key].lab)} ± ${(f[key].u ?? 0).toFixed(1)}` : "",
    absent: f[key].lab ? null : "not measured",
    zone,
  });
  const { hue_shift: h, value_range: v, granulation: g, hiding, lifting } = f;
  /** Figures of tests that most cards do not have: left out where there is none. */
  const rare = (specs: FigureSpec[]): FigureRow[] =>
    specs.filter((spec) => (spec.value ?? spec.absent ?? null) !== null).map(row);
  return [
    place("masstone", "masstone", "masstone"),
    place("half", "half tint", "gradient"),
    place("wash", "wash", "gradient"),
    row({
      key: "delta_h",
      title: "hue shift",
      value: h.delta_h,
      u: h.u,
      digits: 1,
      unit: "°",
      sign: true,
      absent: h.absent,
      zone: "gradient",
    }),
    ...rare([
      {
        key: "dilution_shift",
        title: "of it by dilution alone",
        value: f.dilution_shift,
        u: f.dilution_shift_u,
        digits: 1,
        unit: "°",
        sign: true,
        zone: "gradient",
      },
    ]),
    row({
      key: "travel",
      title: "hue travel",
      value: h.travel,
      u: h.travel_u,
      digits: 1,
      unit: "°",
      absent: h.absent,
      zone: "gradient",
    }),
    row({
      key: "span_L",
      title: "value span",
      value: v.span_L,
      u: v.u,
      digits: 1,
      unit: " L*",
      absent: v.absent,
      zone: "gradient",
    }),
    row({
      key: "reach",
      title: "value reach",
      value: v.reach,
      u: v.reach_u,
      digits: 0,
      unit: " %",
      scale: 100,
      absent: v.absent,
      zone: "masstone",
    }),
    ...rare([
      {
        key: "chroma_peak",
        title: "most vivid, C*",
        value: f.chroma_peak?.chroma,
        u: f.chroma_peak?.u,
        digits: 0,
        zone: "gradient",
      },
      {
        key: "flare",
        title: "flare",
        value: f.flare?.delta_e,
        u: f.flare?.u,
        digits: 1,
        unit: " ΔE",
        zone: "gradient",
      },
    ]),
    row({
      key: "granulation",
      title: "granulation",
      value: g.index,
      u: g.u,
      digits: 2,
      unit: " L*",
      absent: g.absent,
      zone: "wash",
    }),
    row({
      key: "grain_mm",
      title: "grain width",
      value: g.grain_mm,
      u: g.grain_u ?? null,
      digits: 2,
      unit: " mm",
      absent: g.absent ?? "too even for a width",
      zone: "wash",
    }),
    row({
      key: "mottle",
      title: "mottle",
      value: g.mottle,
      u: g.mottle_u ?? null,
      digits: 2,
      unit: " L*",
      absent: g.absent ?? "needs a wash of 12 mm or more",
      zone: "wash",
    }),
    ...rare([
      { key: "fine", title: "fine grain", value: g.fine, u: g.fine_u ?? null, digits: 2, unit: " L*", zone: "wash" },
      {
        key: "arms_length",
        title: "from arm's length",
        value: g.arms_length,
        u: g.arms_length_u,
        digits: 2,
        unit: " L*",
        zone: "wash",
      },
    ]),
    row({
      key: "tooth",
      title: "settles in the tooth",
      value: g.tooth_correlation,
      u: g.tooth_u,
      digits: 2,
      sign: true,
      absent: g.absent ?? "needs shots with a low lamp from two sides",
      zone: "wash",
    }),
    row({
      key: "separation",
      title: "separation",
      value: f.separation?.index,
      u: f.separation?.u ?? null,
      digits: 2,
      unit: " ΔE",
      absent: f.separation?.absent,
      note: f.separation?.components.length === 2 ? "two colours" : null,
      zone: "wash",
    }),
    row({
      key: "sparkle",
      title: "glints",
      value: f.sparkle?.density,
      u: f.sparkle?.u ?? null,
      digits: 1,
      unit: " per cm²",
      absent: f.sparkle?.absent,
      zone: "masstone",
    }),
    ...rare([
      {
        key: "glint_strength",
        title: "their light, mm²",
        value: f.sparkle?.strength,
        u: f.sparkle?.strength_u,
        digits: 3,
        unit: " per cm²",
        note: f.sparkle?.clipped ? "at least, some were too bright for the shot" : null,
        zone: "masstone",
      },
    ]),
    row({
      key: "sheen",
      title: "sheen",
      value: f.sheen?.delta_e00,
      u: f.sheen?.u,
      digits: 1,
      unit: " ΔE00",
      absent: f.sheen?.absent,
      note: f.sheen?.claimed === false ? "too little to claim" : null,
      zone: "masstone",
    }),
    row({
      key: "unevenness",
      title: "unevenness drawn out",
      value: f.gradient?.unevenness,
      u: f.gradient?.u,
      digits: 3,
      absent: f.gradient?.absent,
      zone: "gradient",
    }),
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
