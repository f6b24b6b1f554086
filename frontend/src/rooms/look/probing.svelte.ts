import { client, unwrap, type Probe } from "../../lib/api/client";

/** Reads the colour under the pointer: one question at a time, always the newest place. */
export class Probing {
  probe = $state<Probe | null>(null);
  note = $state("");
  private wanted: { x: number; y: number } | null = null;
  private asking = false;

  constructor(private readonly capture: () => number) {}

  at(place: { x: number; y: number } | null): void {
    this.wanted = place;
    if (place === null) {
      this.probe = null;
      this.note = "";
    } else if (!this.asking) void this.ask();
  }

  private async ask(): Promise<void> {
    this.asking = true;
    while (this.wanted !== null) {
      const place = this.wanted;
      try {
        const query = { x_mm: place.x, y_mm: place.y };
        const found = await unwrap(
          client.GET("/api/captures/{capture_id}/probe", { params: { path: { capture_id: this.capture() }, query } }),
        );
        if (this.wanted !== null) this.probe = found;
      } catch (refusal) {
        this.probe = null;
        this.note = (refusal as Error).message;
      }
      if (this.wanted === place) break;
    }
    this.asking = false;
  }
}
