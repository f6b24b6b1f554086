import { beforeEach, describe, expect, it, vi } from "vitest";
import { Probing } from "./probing.svelte";

const get = vi.hoisted(() => vi.fn());
vi.mock("../../lib/api/client", async (original) => ({
  ...(await original<typeof import("../../lib/api/client")>()),
  client: { GET: get },
}));

interface Question {
  params: { query: { x_mm: number } };
}
const answer = (x: number) => ({ data: { x_mm: x, lab: [x, 0, 0] }, response: { ok: true, status: 200 } });
const settled = () => new Promise((resolve) => setTimeout(resolve, 0));

describe("probing", () => {
  beforeEach(() => {
    get.mockReset();
  });

  it("asks one question at a time and skips the places in between", async () => {
    const waiting: ((value: unknown) => void)[] = [];
    get.mockImplementation(() => new Promise((resolve) => waiting.push(resolve)));
    const probing = new Probing(() => 7);
    for (const x of [1, 2, 3]) probing.at({ x, y: 5 });
    expect(get).toHaveBeenCalledTimes(1);
    waiting[0]?.(answer(1));
    await settled();
    expect(get.mock.calls.map((call) => (call[1] as Question).params.query.x_mm)).toEqual([1, 3]);
    waiting[1]?.(answer(3));
    await settled();
    expect(probing.probe?.x_mm).toBe(3);
  });

  it("shows nothing once the pointer has left, even if the answer comes later", async () => {
    let reply: (value: unknown) => void = () => undefined;
    get.mockImplementation(() => new Promise((resolve) => (reply = resolve)));
    const probing = new Probing(() => 7);
    probing.at({ x: 1, y: 1 });
    probing.at(null);
    reply(answer(1));
    await settled();
    expect(probing.probe).toBeNull();
  });

  it("says why a place has no colour", async () => {
    get.mockImplementation(() =>
      Promise.resolve({ error: { title: "Nothing was measured there." }, response: { ok: false, status: 404 } }),
    );
    const probing = new Probing(() => 7);
    probing.at({ x: 1, y: 1 });
    await settled();
    expect(probing.probe).toBeNull();
    expect(probing.note).toBe("Nothing was measured there.");
  });
});
