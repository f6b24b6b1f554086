import { describe, expect, it } from "vitest";
import type { Capture, Card, Paint, Pigment, Swatch } from "./api/client";
import type { SwatchFigures } from "./api/measurement";
import { fillingScale, hueArc, hueDeg, planeReach } from "./charts/scales";
import { figureRows, figureText } from "./figures";
import { barLength, clock, howLongAgo, labText, minutesInWords, signed, sizeText, unbroken } from "./format";
import { nextStep } from "./next-step";
import { holds, onCard, toCard, toScreen } from "./viewer/placement";
import { pairOf, differenceText, doubtText, sorted } from "../rooms/compare/compare";
import { matches, moved } from "../rooms/ask/plan.svelte";

function figures(change: Partial<SwatchFigures> = {}): SwatchFigures {
  return {
    masstone: { lab: [40, 15, -80], depth: 1.1, u: 1.2 },
    half: { lab: [60, 0, -40], depth: 0.55, u: 0.9 },
    wash: { lab: [86, -5, -12], depth: 0.16, u: 0.7 },
    path: [],
    gradient_ends_at: null,
    hue_shift: { delta_h: -34.2, delta_H: -18, travel: 34.2, u: 4, absent: null },
    value_range: { masstone_L: 40, wash_L: 86, span_L: 46, reach: 0.57, u: 0.6, absent: null },
    granulation: {
      index: 1.6,
      mottle: 0.7,
      grain_mm: 0.47,
      anisotropy: 0.1,
      skew: 0,
      u: 0.1,
      grain_u: 0.02,
      absent: null,
    },
    hiding: { veil: 0.042, contrast_ratio: 0.3, hiding: 0.62, class: "transparent", u: 0.003, absent: null },
    lifting: { removed: 0.75, residual_de00: 13.5, class: "low", u: 0.02, absent: null },
    ...change,
  };
}
const row = (f: SwatchFigures, key: string) => figureRows(f).find((r) => r.key === key)!;

describe("written figures", () => {
  it("gives shares in hundredths, and other differences in their own unit", () => {
    const told = { key: "k", title: "t", chief: true, first: 1, second: 2, times_u: 6.3, real: true };
    const text = (unit: string, difference: number | null, u: number | null) =>
      differenceText({ ...told, unit, difference, u });
    expect(text("", 0.072, 0.01)).toBe("+7.2 ± 1.0 %");
    expect(text("mm", -0.09, 0.03)).toBe("−0.09 ± 0.03 mm");
    expect(text("1", 0.25, 0.004)).toBe("+0.250 ± 0.004");
    expect(text("L*", null, null)).toBe("absent");
    expect(text("°", 11.1, 3.3)).toBe("+11.1 ± 3.3°");
    expect(text("1", -0.0004, 0.02)).toBe("0.00 ± 0.02");
    expect(doubtText({ ...told, unit: "", difference: 0.07, u: 0.01 })).toBe("6.3 times its uncertainty");
    expect(doubtText({ ...told, unit: "", difference: 0.07, u: 0.01, real: false })).toContain("not real");
  });
  it("rounds both sides of a place", () => {
    expect(sizeText([3, 4, 24.8837, 17.2])).toBe("24.9\u00a0×\u00a017.2\u00a0mm");
  });
});

describe("figures", () => {
  it("says why a drying shift could not be told, and nothing where no wet capture was made", () => {
    const told = row(figures({ drying: { masstone: null, u: null, absent: "wet: clipped" } }), "drying");
    expect([told.text, told.absent]).toEqual(["", "wet: clipped"]);
    expect(figureRows(figures({ drying: null })).some((r) => r.key === "drying")).toBe(false);
  });
  it("writes each with its uncertainty, unit and class", () => {
    expect(row(figures(), "delta_h").text).toBe("−34.2 ± 4.0°");
    expect(figureText(row(figures(), "veil"))).toBe("4.2 ± 0.3 % · transparent");
    expect(figureText(row(figures(), "removed"))).toBe("75 ± 2 % · low staining");
  });
  it("writes as many digits as its uncertainty needs, and no more than two more than usual", () => {
    const reach = (u: number) =>
      row(
        figures({
          value_range: { masstone_L: 40, wash_L: 86, span_L: 46, reach: 0.5712, reach_u: u, u: 0.6, absent: null },
        }),
        "reach",
      ).text;
    expect([0.006, 0.003, 0.0000001].map(reach)).toEqual(["57 ± 1 %", "57.1 ± 0.3 %", "57.12 ± 0.00 %"]);
  });
  it("says that light too bright for the shot is at least so much", () => {
    const glints = { density: 7.6, strength: 0.055, strength_u: 0.009, u: 1.5, absent: null };
    const shown = (clipped: boolean) => row(figures({ sparkle: { ...glints, clipped } }), "glint_strength").note;
    expect(shown(true)).toContain("at least");
    expect(shown(false)).toBe(null);
  });
  it("says with how little paint light is halved, and how strong that is beside the reference, where steps tell", () => {
    const strength = (relative: number | null) => ({
      strength: {
        slope: 2.4,
        u: 0.2,
        absent: null,
        half_light: { fraction: 0.124, u: 0.004, relative, relative_u: 0.1 },
      },
    });
    expect(figureText(row(figures(strength(1.8)), "half_light"))).toBe(
      "12.4 ± 0.4 % · in tints 1.8 × as strong as the reference",
    );
    expect(figureText(row(figures(strength(1)), "half_light"))).toBe("12.4 ± 0.4 % · the reference itself");
    expect(figureText(row(figures(strength(null)), "half_light"))).toBe("12.4 ± 0.4 %");
    expect(figureRows(figures()).some((r) => r.key === "half_light")).toBe(false);
  });
  it("says what dilution alone turns right after the hue shift that it is a part of", () => {
    const keys = figureRows(figures({ dilution_shift: 4.3 })).map((r) => r.key);
    expect(keys.slice(keys.indexOf("delta_h"), keys.indexOf("delta_h") + 2)).toEqual(["delta_h", "dilution_shift"]);
  });
  it("gives the reason in place of an absent figure", () => {
    const grey = figures({ hue_shift: { delta_h: null, delta_H: null, travel: null, u: null, absent: "too grey" } });
    expect(row(grey, "delta_h")).toMatchObject({ value: null, text: "", absent: "too grey" });
  });
});

describe("format", () => {
  it("keeps figures and their units on one line", () => {
    expect(unbroken("takes 71 % away, 1.8 ΔE")).toBe("takes 71\u00a0% away, 1.8\u00a0ΔE");
  });

  it("tells how long ago a day was", () => {
    const now = Date.parse("2026-06-10T15:00:00Z");
    const told = ["2026-06-10", "2026-06-09", "2026-05-20", "2026-01-02", "2022-06-10"].map((d) => howLongAgo(d, now));
    expect(told).toEqual(["today", "yesterday", "21 days ago", "5 months ago", "4 years ago"]);
  });

  it("uses true minus signs", () => {
    expect(signed(-3.14, 1)).toBe("−3.1");
    expect(signed(0)).toBe("0");
    expect(labText([40, -15.26, 3])).toBe("40.0\u2002−15.3\u20023.0");
    expect(labText(null)).toBe("–");
  });
  it("draws a bar of a round length near the wanted width", () => {
    for (const scale of [0.7, 4, 11.8, 60, 140]) {
      const mm = barLength(scale, 100);
      expect(mm * scale).toBeGreaterThan(45);
      expect(mm * scale).toBeLessThan(220);
    }
  });
});

describe("placement", () => {
  const place = { pixelsPerMm: 4, left: 30, top: -10 };
  it("goes to the screen and back", () => {
    const [x, y] = toScreen(place, 12.5, 40);
    expect(toCard(place, x, y)).toEqual([12.5, 40]);
  });
  it("knows what lies where", () => {
    expect(holds([10, 10, 5, 5], 12, 15)).toBe(true);
    expect(holds([10, 10, 5, 5], 16, 12)).toBe(false);
    expect(onCard([210, 148], 210.1, 5)).toBe(false);
  });
});

describe("charts", () => {
  it("turns anticlockwise for a positive shift", () => {
    const end = (path: string) => path.split("L").at(-1)!.split(",").map(Number);
    expect(end(hueArc(100, 50, 0, 90))).toEqual([100, 50]);
    expect(end(hueArc(100, 50, 0, -90))).toEqual([100, 150]);
  });
  it("holds every point with room to spare", () => {
    expect(planeReach([[50, 60, 80]])).toBeGreaterThanOrEqual(106);
    expect(hueDeg([50, 0, -10])).toBeCloseTo(270);
  });
  it("fills a width without growing past its limit", () => {
    expect(fillingScale([{ width_mm: 60 }, undefined, { width_mm: 40 }], 500, 9)).toBe(5);
    expect(fillingScale([{ width_mm: 10 }], 500, 9)).toBe(9);
  });
});

describe("comparing", () => {
  const swatch = (id: number, index: number | null) =>
    ({ paint: { id }, figures: figures({ granulation: { ...figures().granulation, index } }) }) as unknown as Swatch;
  it("sorts by a figure, with those that lack it last", () => {
    const rows = [swatch(1, 2), swatch(2, null), swatch(3, 0.5)];
    expect(sorted(rows, "granulation").map((s) => s.paint.id)).toEqual([3, 1, 2]);
    expect(sorted(rows, "chosen").map((s) => s.paint.id)).toEqual([1, 2, 3]);
  });
  it("finds a pair whichever way round", () => {
    const pairs = [{ first: 1, second: 3 }] as never;
    expect(pairOf(pairs, 3, 1)).toBeDefined();
    expect(pairOf(pairs, 3, 2)).toBeUndefined();
  });
});

describe("planning", () => {
  it("moves within bounds only", () => {
    expect(moved([1, 2, 3], 0, 2)).toEqual([2, 3, 1]);
    expect(moved([1, 2, 3], 0, 3)).toEqual([1, 2, 3]);
  });
  it("finds paints by any of their words", () => {
    const paint = { name: "Thrift", maker: "Saltings Colour Works", pigments: ["PV19"] } as Paint;
    expect(matches(paint, "pv19 saltings")).toBe(true);
    expect(matches(paint, "pv19 tern")).toBe(false);
    const listed = new Map([["PV19", { name: "quinacridone", hue: "violet" } as Pigment]]);
    expect(matches(paint, "quinacridone violet", listed)).toBe(true);
    expect(matches(paint, "quinacridone violet")).toBe(false);
  });
});

describe("the next step", () => {
  const card = (...captures: Partial<Capture>[]) => ({ card_id: "C-1", captures }) as Card;
  it("follows the newest capture", () => {
    expect(nextStep(card()).title).toBe("Print and paint");
    expect(nextStep(card({ id: 4, state: "done", gates: [] })).href).toBe("/look/4");
    expect(nextStep(card({ state: "running", gates: [] })).title).toBe("Watch");
    expect(nextStep(card({ state: "failed", gates: [] })).title).toBe("See what is wrong");
    const failed = { id: "clipping", state: "fail", advice: "", value: null };
    expect(nextStep(card({ state: "done", gates: [failed] })).title).toBe("See what is wrong");
  });
});

describe("times in words", () => {
  it("are minutes up to an hour, then hours to five minutes", () => {
    expect([5, 59, 60, 92, 118, 119].map(minutesInWords)).toEqual([
      "5 min",
      "59 min",
      "1 h",
      "1 h 30 min",
      "2 h",
      "2 h",
    ]);
  });
  it("are a clock for waits", () => {
    expect([0, 59.6, 65, 3725, -3].map(clock)).toEqual(["0:00", "1:00", "1:05", "1:02:05", "0:00"]);
  });
});

describe("the next step of a card that was not captured", () => {
  it("follows where it stands", () => {
    const card = { card_id: "C-1", captures: [] } as unknown as Card;
    const titles = ["to paint", "being painted", "drying", "dry and due"].map((stage) => nextStep(card, stage).title);
    expect(titles).toEqual(["Print and paint", "Go on painting", "Go on painting", "Capture"]);
  });
});
