<script lang="ts">
  import type { Capture } from "../../lib/api/client";

  interface Props {
    capture: Capture;
    sizeMm: [number, number];
    /** The gate whose places are shown; of all gates where it is null. */
    gate: string | null;
  }
  let { capture, sizeMm, gate }: Props = $props();
  const places = $derived(
    capture.gates
      .filter((g) => g.state !== "pass" && (gate === null || g.id === gate))
      .flatMap((g) => (g.where_mm ?? []).map((rect) => ({ gate: g, rect }))),
  );
</script>

<a href="/look/{capture.id}" class="relative block">
  <img src="/api/captures/{capture.id}/card.jpg" alt="Capture {capture.id}, calibrated" class="block w-full" />
  {#if places.length}
    <svg viewBox="0 0 {sizeMm[0]} {sizeMm[1]}" class="absolute inset-0 h-full w-full" role="img">
      <title>{places.map((p) => p.gate.id).join(", ")}: where</title>
      {#each places as { rect, gate: of }, index (index)}
        {@const [x, y, width, height] = rect}
        <rect {x} {y} {width} {height} fill="none" stroke="white" stroke-width="2.4" />
        <rect
          {x}
          {y}
          {width}
          {height}
          fill="none"
          stroke="black"
          stroke-width="1.1"
          stroke-dasharray={of.state === "fail" ? "none" : "3 1.5"}
        />
      {/each}
    </svg>
  {/if}
</a>
