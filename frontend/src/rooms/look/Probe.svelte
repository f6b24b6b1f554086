<script lang="ts">
  import type { Probe } from "../../lib/api/client";
  import { labText } from "../../lib/format";

  interface Props {
    probe: Probe | null;
    note: string;
  }
  let { probe, note }: Props = $props();
</script>

<p class="flex items-baseline gap-4 px-3 py-2" aria-live="polite" data-testid="probe">
  {#if probe}
    <span class="text-faint text-xs">{probe.x_mm.toFixed(1)}, {probe.y_mm.toFixed(1)} mm</span>
    <span>L* a* b*&ensp;<b class="font-semibold">{labText(probe.lab)}</b></span>
    <span class="text-faint">C* {probe.lch[1]?.toFixed(1)}&ensp;h {probe.lch[2]?.toFixed(0)}°</span>
    <span class="text-faint text-xs"
      >mean of 1 mm, {probe.pixels} samples{probe.in_gamut ? "" : "; this screen cannot show it"}</span
    >
  {:else}
    <span class="text-faint"
      >{note || "Point at the card to read L* a* b* there, or press p for the middle of the view."}</span
    >
  {/if}
</p>
