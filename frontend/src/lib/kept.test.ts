import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { forget, isText, keep, kept } from "./kept";

describe("what is being typed", () => {
  const store = new Map<string, string>();
  beforeEach(() => {
    store.clear();
    vi.stubGlobal("localStorage", {
      setItem: (key: string, value: string) => store.set(key, value),
      getItem: (key: string) => store.get(key) ?? null,
      removeItem: (key: string) => store.delete(key),
    });
  });
  afterEach(() => {
    vi.unstubAllGlobals();
  });

  it("is kept by its name until it is forgotten", () => {
    keep("note", "re-wets slow");
    expect(kept("note", isText)).toBe("re-wets slow");
    forget("note");
    expect(kept("note", isText)).toBeNull();
  });

  it("of another make, or broken, counts for nothing", () => {
    keep("note", { words: 3 });
    expect(kept("note", isText)).toBeNull();
    store.set("gelvet-kept-note", "{");
    expect(kept("note", isText)).toBeNull();
  });
});
