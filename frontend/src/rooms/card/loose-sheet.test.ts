import { describe, expect, it } from "vitest";
import {
  added,
  asKind,
  divided,
  isLooseSheet,
  joined,
  placed,
  rescaled,
  withoutZones,
  type LooseSheet,
} from "./loose-sheet";

const sheet: LooseSheet = {
  card_id: "OLD-1",
  size_mm: [200, 100],
  fiducials: { tags: [] },
  reference: { patches: [] },
  placement: {
    corners_px: [
      [0, 0],
      [400, 0],
      [400, 200],
      [0, 200],
    ],
    image_px: [400, 200],
    scale: "unknown",
  },
  zones: [
    { id: "S1.gradient", swatch: "S1", kind: "gradient", rect_mm: [10, 10, 60, 12], axis: "+x" },
    { id: "S2.masstone", swatch: "S2", kind: "masstone", rect_mm: [80, 10, 12, 12] },
    { id: "S3.masstone", swatch: "S3", kind: "masstone", rect_mm: [10, 40, 12, 12] },
    { id: "paper.1", swatch: null, kind: "paper", rect_mm: [120, 10, 8, 8] },
  ],
  swatches: [
    { id: "S1", label: "" },
    { id: "S2", label: "" },
    { id: "S3", label: "" },
  ],
};
const ids = (s: LooseSheet) => s.zones.map((z) => z.id);
const swatches = (s: LooseSheet) => s.swatches.map((x) => x.id);

describe("a loose sheet's zones", () => {
  it("of one paint become one swatch, and ids stay apart", () => {
    const one = joined(sheet, ["S2.masstone", "S3.masstone", "S1.gradient"]);
    expect(ids(one)).toEqual(["S1.gradient", "S1.masstone", "S1.masstone.2", "paper.1"]);
    expect(swatches(one)).toEqual(["S1"]);
    expect(joined(sheet, ["paper.1"])).toBe(sheet);
  });

  it("are cut in two across the longer side, the second half a new swatch", () => {
    const two = divided(sheet, "S1.gradient");
    expect(two.zones[0]!.rect_mm).toEqual([10, 10, 30, 12]);
    expect(two.zones.at(-1)).toMatchObject({ id: "S4.gradient", swatch: "S4", rect_mm: [40, 10, 30, 12] });
    expect(swatches(two)).toEqual(["S1", "S2", "S3", "S4"]);
    const sliver = placed(sheet, "S2.masstone", [0, 0, 3, 3]);
    expect(divided(sliver, "S2.masstone")).toBe(sliver);
  });

  it("may turn out to be bare paper, or paint after all", () => {
    const paper = asKind(sheet, "S2.masstone", "paper");
    expect(paper.zones[1]).toMatchObject({ id: "paper.2", swatch: null, kind: "paper" });
    expect(swatches(paper)).toEqual(["S1", "S3"]);
    const back = asKind(paper, "paper.2", "gradient");
    expect(back.zones[1]).toMatchObject({ id: "S2.gradient", swatch: "S2", axis: "+x" });
    expect(asKind(sheet, "S1.gradient", "masstone").zones[0]).not.toHaveProperty("axis");
  });

  it("are taken away with swatches that nothing shows any more", () => {
    expect(swatches(withoutZones(sheet, ["S2.masstone", "paper.1"]))).toEqual(["S1", "S3"]);
    const { sheet: more, id } = added(sheet);
    expect(id).toBe("S4.masstone");
    expect(withoutZones(more, [id])).toEqual(sheet);
  });

  it("grow with the sheet when its scale is given", () => {
    const real = rescaled(sheet, 20, 10);
    expect(real.size_mm).toEqual([100, 50]);
    expect(real.zones[0]!.rect_mm).toEqual([5, 5, 30, 6]);
    expect(real.placement.scale).toBe("clicks");
    expect(rescaled(sheet, 0, 10)).toBe(sheet);
  });

  it("are told from a printed card's", () => {
    expect(isLooseSheet(sheet)).toBe(true);
    expect(isLooseSheet({ ...sheet, placement: undefined })).toBe(false);
    expect(isLooseSheet(null)).toBe(false);
  });
});
