import { describe, expect, it } from "vitest";
import { nudged } from "./zones";

describe("zones under the arrow keys", () => {
  it("move by half a millimetre and stay on the card", () => {
    expect(nudged([10, 20, 5, 6], "ArrowRight", false)).toEqual([10.5, 20, 5, 6]);
    expect(nudged([0, 0.2, 5, 6], "ArrowUp", false)).toEqual([0, 0, 5, 6]);
  });
  it("change their size with shift, but never vanish", () => {
    expect(nudged([10, 20, 5, 6], "ArrowDown", true)).toEqual([10, 20, 5, 6.5]);
    expect(nudged([10, 20, 2, 6], "ArrowLeft", true)).toEqual([10, 20, 2, 6]);
  });
  it("leave other keys alone", () => {
    expect(nudged([10, 20, 5, 6], "Enter", false)).toBeNull();
  });
});
