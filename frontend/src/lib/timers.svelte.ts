import { client, unwrap, type BenchTimer } from "./api/client";

export interface RunningTimer extends BenchTimer {
  /** Seconds left by this page's own count, which a wrong wall clock does not disturb. */
  left: number;
}

/** All waits of the bench, counted down between the server's answers, and rung when they are over. */
class Timers {
  running = $state<RunningTimer[]>([]);
  #heard = performance.now();
  #sound: AudioContext | null = null;
  #rung = new Set<number>();
  #ended = new Set<number>();

  /** What the server says; it knows how long each wait still has. */
  take(timers: readonly BenchTimer[]): void {
    this.#heard = performance.now();
    // An answer may have been under way since before a wait was ended here.
    this.running = timers.filter((t) => !this.#ended.has(t.id)).map((t) => ({ ...t, left: t.remaining }));
    this.#ringDue();
  }

  tick(): void {
    const passed = (performance.now() - this.#heard) / 1000;
    for (const timer of this.running) timer.left = Math.max(0, timer.remaining - passed);
    this.#ringDue();
  }

  /** Gone from the page at once; there again with the server's next answer if that refused. */
  async end(id: number): Promise<void> {
    this.#ended.add(id);
    this.running = this.running.filter((t) => t.id !== id);
    try {
      await unwrap(client.POST("/api/timers/{timer_id}/end", { params: { path: { timer_id: id } } }));
    } catch (refusal) {
      this.#ended.delete(id);
      throw refusal;
    }
  }

  get ringing(): RunningTimer[] {
    return this.running.filter((t) => t.left <= 0);
  }

  #ringDue(): void {
    for (const timer of this.ringing) {
      if (this.#rung.has(timer.id)) continue;
      this.#rung.add(timer.id);
      this.#ring();
    }
  }

  /** Three short tones; a browser that allows no sound yet shows the ringing all the same. */
  #ring(): void {
    this.#sound ??= new AudioContext();
    const start = this.#sound.currentTime;
    for (const offset of [0, 0.35, 0.7]) {
      const tone = this.#sound.createOscillator();
      const volume = this.#sound.createGain();
      tone.frequency.value = 880;
      volume.gain.setValueAtTime(0.2, start + offset);
      volume.gain.exponentialRampToValueAtTime(0.001, start + offset + 0.25);
      tone.connect(volume).connect(this.#sound.destination);
      tone.start(start + offset);
      tone.stop(start + offset + 0.3);
    }
  }
}

export const timers = new Timers();
