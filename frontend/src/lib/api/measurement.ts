/** The parts of a measurement document (version 1) that the views use. */
export type Lab = [number, number, number];

export interface ZoneFigures {
  lab: Lab | null;
  lch: Lab | null;
  hex: string | null;
  in_gamut: boolean | null;
  sd: Lab | null;
  u: number | null;
  used_fraction: number | null;
  beyond_gamut?: number;
  absent: string | null;
}

export interface PlaceFigures {
  lab: Lab | null;
  depth: number | null;
  u?: number | null;
  /** Standard uncertainties of L*, a*, b*; files of earlier versions lack them. */
  u_lab?: Lab | null;
}

export interface SwatchFigures {
  masstone: PlaceFigures;
  half: PlaceFigures;
  wash: PlaceFigures;
  path: { depth: number; lab: Lab }[];
  gradient_ends_at: number | null;
  paper_lab?: Lab | null;
  hue_shift: {
    delta_h: number | null;
    delta_H: number | null;
    travel: number | null;
    travel_u?: number | null;
    u: number | null;
    absent: string | null;
  };
  value_range: {
    masstone_L: number | null;
    wash_L: number | null;
    span_L: number | null;
    reach: number | null;
    reach_u?: number | null;
    u: number | null;
    absent: string | null;
  };
  granulation: {
    index: number | null;
    mottle: number | null;
    mottle_u?: number | null;
    fine?: number | null;
    fine_u?: number | null;
    grain_mm: number | null;
    anisotropy: number | null;
    tooth_correlation?: number | null;
    tooth_u?: number | null;
    arms_length?: number | null;
    arms_length_u?: number | null;
    by_depth?: { depth: number; index: number; u: number; where: string }[];
    spectrum?: { frequency: number; wash: number; paper: number }[];
    skew: number | null;
    u: number | null;
    grain_u?: number | null;
    absent: string | null;
  };
  separation?: {
    index: number | null;
    components: { lab: Lab; share: number; u?: number | null; share_u?: number | null }[];
    u: number | null;
    absent: string | null;
  };
  sparkle?: {
    density: number | null;
    strength: number | null;
    strength_u?: number | null;
    heavy?: number | null;
    light?: number | null;
    clipped?: boolean | null;
    u: number | null;
    absent: string | null;
  };
  sheen?: { delta_e00: number | null; u?: number | null; claimed?: boolean | null; absent: string | null };
  strength?: {
    slope: number | null;
    relative?: number | null;
    relative_u?: number | null;
    u?: number | null;
    half_light?: { fraction: number; u: number; relative: number | null; relative_u: number | null } | null;
    absent: string | null;
  };
  drying?: {
    masstone: { delta_L: number; delta_C: number; delta_e00: number; u?: number } | null;
    u: number | null;
    absent: string | null;
  } | null;
  flare?: { delta_e: number; u?: number | null; depth: number } | null;
  chroma_peak?: { chroma: number; u?: number | null; depth: number } | null;
  dilution_shift?: number | null;
  dilution_shift_u?: number | null;
  wet_drop?: {
    reach_mm: number | null;
    parted: number | null;
    u: number | null;
    profile: { distance_mm: number; depth: number }[];
    absent: string | null;
  } | null;
  water_drop?: {
    area_mm2: number | null;
    area_u?: number | null;
    rim: number | null;
    u: number | null;
    profile: { distance_mm: number; depth: number }[];
    absent: string | null;
  } | null;
  tilt?: { parted: number | null; parted_u?: number | null; absent: string | null } | null;
  gradient?: { unevenness: number | null; u?: number | null; backruns: number | null; absent: string | null };
  hiding: {
    veil: number | null;
    contrast_ratio: number | null;
    contrast_ratio_u?: number | null;
    hiding: number | null;
    hiding_u?: number | null;
    glinting_veil?: number | null;
    glinting_veil_u?: number | null;
    wash?: { veil: number; u: number } | null;
    next_class?: { class: string; away: number } | null;
    class: string | null;
    u: number | null;
    absent: string | null;
  };
  lifting: {
    removed: number | null;
    residual_de00: number | null;
    residual_de00_u?: number | null;
    residue_hue?: number | null;
    glints?: number | null;
    damage?: number | null;
    next_class?: { class: string; away: number } | null;
    class: string | null;
    u: number | null;
    absent: string | null;
  };
}

export interface MeasurementDocument {
  card_id: string;
  calibration: {
    tier: string;
    model: string;
    pixels_per_mm: number | null;
    placed_by?: string;
    reprojection_px: number | null;
    blur_mm: number | null;
    sharpening?: { halo: number; halo_mm: number } | null;
    fringes_px?: [number, number];
    tilt_deg?: number;
    lens_bend?: number;
    cross_validated_de00: { mean: number; p95: number; max: number } | null;
    gates: { id: string; state: string; advice: string; value: number | null }[];
  };
  device?: Record<string, string | number>;
  shots?: OtherShot[];
  zones: Record<string, ZoneFigures>;
  swatches: Record<string, SwatchFigures>;
}

/** A shot laid over the flat one that colour is measured on. */
export interface OtherShot {
  file: string;
  light: string;
  state: string;
  azimuth_deg: number | null;
  elevation_deg: number | null;
  registration_mm: number | null;
}

export interface LayoutZone {
  id: string;
  swatch: string | null;
  kind: string;
  rect_mm: [number, number, number, number];
  axis?: string | null;
  layers?: number;
  dilution?: number;
  effect?: string;
}

export interface LayoutDocument {
  card_id: string;
  size_mm: [number, number];
  fiducials: { tags: { id: number; center_mm: [number, number]; size_mm: number }[] };
  reference: { patches: { id: string; rect_mm: [number, number, number, number] }[] };
  zones: LayoutZone[];
  swatches: { id: string; label: string }[];
}

const titles: Record<string, string> = {
  paper: "bare paper",
  masstone: "masstone",
  gradient: "gradient",
  wash: "wash",
  ink: "ink line",
  over_ink: "over ink",
  beside_ink: "beside ink",
  unlifted: "unlifted",
  lifted: "lifted",
};

export function zoneTitle(kind: string): string {
  return titles[kind] ?? kind.replaceAll("_", " ");
}

const shortTitles: Record<string, string> = {
  paper: "bare",
  ink: "ink",
  over_ink: "over",
  beside_ink: "beside",
  unlifted: "leave",
  lifted: "lift",
};

/** What fits into a narrow zone on a drawn card. */
export function shortZoneTitle(kind: string): string {
  return shortTitles[kind] ?? zoneTitle(kind);
}

/** The same, or what tells a zone from its neighbours of one kind. */
export function zoneMark(zone: LayoutZone): string {
  if (zone.dilution !== undefined) return `${Number((100 * zone.dilution).toPrecision(3))} %`;
  if (zone.layers !== undefined) return zone.kind === "over_ink" ? `over ${zone.layers}` : `layer ${zone.layers}`;
  return zone.effect ?? shortZoneTitle(zone.kind);
}
