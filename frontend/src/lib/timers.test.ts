import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { client, type BenchTimer } from "./api/client";
import { timers } from "./timers.svelte";

const timer = (id: number, remaining: number): BenchTimer => ({
  id,
  remaining,
  seconds: 60,
  title: "Ink drying",
  step: "ink",
  card_id: "C-1",
});

describe("waits at the bench", () => {
  let now = 0;
  let tones = 0;
  beforeEach(() => {
    now = 1000;
    tones = 0;
    vi.spyOn(performance, "now").mockImplementation(() => now);
    const node = { frequency: { value: 0 }, gain: { setValueAtTime: vi.fn(), exponentialRampToValueAtTime: vi.fn() } };
    class Sound {
      currentTime = 0;
      destination = {};
      createGain = () => ({ ...node, connect: (to: unknown) => to });
      createOscillator = () => ({ ...node, connect: (to: unknown) => to, start: () => tones++, stop: vi.fn() });
    }
    vi.stubGlobal("AudioContext", Sound);
  });
  afterEach(() => {
    timers.take([]);
    vi.restoreAllMocks();
    vi.unstubAllGlobals();
  });

  it("count down by the page's own clock between the server's answers", () => {
    timers.take([timer(1, 30)]);
    now += 12_000;
    timers.tick();
    expect(timers.running[0]?.left).toBe(18);
    timers.take([timer(1, 20)]); // the server knows better
    expect(timers.running[0]?.left).toBe(20);
  });

  it("ring once each when they are over, and stay until they are heard", () => {
    timers.take([timer(11, 5), timer(12, 50)]);
    now += 6000;
    timers.tick();
    timers.tick();
    timers.take([timer(11, 0), timer(12, 44)]);
    expect(timers.ringing.map((t) => t.id)).toEqual([11]);
    expect(tones).toBe(3); // three short tones, once
  });

  it("never show less than nothing", () => {
    timers.take([timer(21, 1)]);
    now += 60_000;
    timers.tick();
    expect(timers.running[0]?.left).toBe(0);
  });

  it("stay away once ended, whatever an older answer says, and come back when that was refused", async () => {
    const asked = vi.spyOn(client, "POST");
    timers.take([timer(31, 0), timer(32, 9)]);
    asked.mockImplementationOnce(() => {
      timers.take([timer(31, 0), timer(32, 9)]); // asked for before the wait was ended
      return Promise.resolve({ data: timer(31, 0), response: new Response() }) as never;
    });
    await timers.end(31);
    expect(timers.running.map((t) => t.id)).toEqual([32]);
    const refused = {
      error: { code: "not-found", title: "Not there." },
      response: new Response(null, { status: 404 }),
    };
    asked.mockResolvedValueOnce(refused as never);
    await expect(timers.end(32)).rejects.toThrow("Not there.");
    timers.take([timer(31, 0), timer(32, 9)]);
    expect(timers.running.map((t) => t.id)).toEqual([32]);
  });
});
