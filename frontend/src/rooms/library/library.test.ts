import { describe, expect, it } from "vitest";
import type { Paint } from "../../lib/api/client";
import type { SwatchFigures } from "../../lib/api/measurement";
import { componentText } from "./component-text";
import { standing } from "./other-swatch";
import { isLabel, labelOf, splitCodes } from "./paint-label";
import { readLab } from "./read-lab";
import { readWeight } from "./read-weight";

describe("a colour to look up", () => {
  it("is three numbers, parted and written as people do", () => {
    expect(readLab("30 20 -50")).toEqual([30, 20, -50]);
    expect(readLab(" 30,5; 0;-1,25 ")).toEqual([30.5, 0, -1.25]);
  });
  it("of any other form is refused in a sentence", () => {
    for (const text of ["dark", "30 20", "1 2 3 4", "30 20 x"]) expect(() => readLab(text)).toThrow("three numbers");
  });
});

describe("another swatch of a paint", () => {
  const newest = { card_id: "A-1", swatch: "S1" };
  const other = { card_id: "A-1", swatch: "S2", replicate: true, real: false, obstacles: [] };

  it("is a replicate, or the very same swatch captured again", () => {
    expect(standing(newest, other)).toBe("a replicate");
    expect(standing(newest, { ...other, swatch: "S1" })).toBe("the same swatch, captured again");
    expect(standing(newest, { ...other, card_id: "B-1", swatch: "S1" })).toBe("a replicate");
  });
  it("is said to differ only where that is more than chance", () => {
    expect(standing(newest, { ...other, real: true })).toContain("departs from it");
    expect(standing(newest, { ...other, swatch: "S1", real: true })).toContain("the two captures differ");
  });
  it("is not compared where something else stands between, and that is said", () => {
    const obstacles = [
      { field: "state", weight: "forbids", sentence: "One is wet, the other dry." },
      { field: "painter", weight: "notes", sentence: "Two painters." },
    ];
    expect(standing(newest, { ...other, replicate: false, real: true, obstacles })).toBe("One is wet, the other dry.");
  });
});

describe("a paper's weight", () => {
  it("is read with or without its unit, and nothing stays nothing", () => {
    expect([readWeight("300"), readWeight("300 g/m²"), readWeight("185,5 gsm"), readWeight("  ")]).toEqual([
      300,
      300,
      186,
      null,
    ]);
  });
  it("that is none is said, never dropped", () => {
    for (const text of ["heavy", "3", "90000", "140lb"]) expect(() => readWeight(text)).toThrow("grams a square metre");
  });
});

describe("a paint's label", () => {
  const paint = {
    name: "Thrift",
    maker: "Saltings",
    pigments: ["PV19"],
    claims: { staining: "low" },
    place: 2,
    revision: 4,
  };

  it("is copied, so that writing on it leaves the paint alone", () => {
    const label = labelOf(paint as unknown as Paint);
    label.pigments.push("PR122");
    label.claims.staining = "high";
    expect([paint.pigments, paint.claims.staining]).toEqual([["PV19"], "low"]);
    expect([label.place, "revision" in label]).toEqual([2, false]);
  });
  it("starts empty for a new paint, and is known again when it was kept", () => {
    expect(isLabel(JSON.parse(JSON.stringify(labelOf(undefined))))).toBe(true);
    for (const other of [null, 3, {}, { name: "x", pigments: "PV19", claims: {} }]) expect(isLabel(other)).toBe(false);
  });
  it("has its codes parted by commas, semicolons or the next P", () => {
    expect(splitCodes("pb 29, PV19;PR122 pbk9")).toEqual(["pb 29", "PV19", "PR122", "pbk9"]);
    expect(splitCodes("  ")).toEqual([]);
  });
});

describe("a component under its picture", () => {
  it("says its share and colour, as sure as they are", () => {
    const known = { lab: [62, -14, 20] as [number, number, number], share: 0.54, u: 1.3, share_u: 0.06 };
    const old = { lab: [50, 0, 0] as [number, number, number], share: 0.46 };
    const separation = { index: 1.2, components: [known, old], u: 0.1, absent: null };
    const f = { separation } as SwatchFigures;
    expect(componentText(f, 0)).toMatch(/^54.±.6.% of the depth, 62\.0.−14\.0.20\.0.±.1\.3$/);
    expect(componentText(f, 1)).toMatch(/^46.% of the depth, 50\.0.0\.0.0\.0$/);
    expect(componentText(f, 2)).toBe("");
  });
});
