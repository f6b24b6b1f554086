import type { SwatchFigures } from "../api/measurement";
import { labText } from "../format";
import { rare, row, type FigureRow } from "./row";

/** From masstone to wash: colours, hue shift, value, and how evenly the paint was drawn out. */
export function colourRows(f: SwatchFigures): FigureRow[] {
  const { hue_shift: h, value_range: v } = f;
  return [
    place(f, "masstone", "masstone", "masstone"),
    place(f, "half", "half tint", "gradient"),
    place(f, "wash", "wash", "gradient"),
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
      key: "unevenness",
      title: "unevenness drawn out",
      value: f.gradient?.unevenness,
      u: f.gradient?.u,
      digits: 3,
      absent: f.gradient?.absent,
      zone: "gradient",
    }),
  ];
}

function place(f: SwatchFigures, key: "masstone" | "half" | "wash", title: string, zone: string): FigureRow {
  return {
    key,
    title,
    value: f[key].lab?.[0] ?? null,
    u: f[key].u ?? null,
    note: null,
    text: f[key].lab ? `${labText(f[key].lab)} ± ${(f[key].u ?? 0).toFixed(1)}` : "",
    absent: f[key].lab ? null : "not measured",
    zone,
  };
}
