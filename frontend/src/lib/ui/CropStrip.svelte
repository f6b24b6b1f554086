<script lang="ts">
  import type { Swatch } from "../api/client";
  import { zoneTitle } from "../api/measurement";

  interface Props {
    swatch: Swatch;
    kinds: readonly string[];
    pixelsPerMm: number;
    /** Height in mm that is shown of each crop: all chips of one strip are equally high. */
    heightMm: number;
  }
  let { swatch, kinds, pixelsPerMm, heightMm }: Props = $props();
  const shown = $derived(kinds.flatMap((kind) => (swatch.crops[kind] ? [{ kind, crop: swatch.crops[kind] }] : [])));
  /** The second of a kind is called as the first. */
  const title = (kind: string): string => zoneTitle(kind.split(":")[0] ?? kind);
</script>

<div class="flex" style:height="{heightMm * pixelsPerMm}px">
  {#each shown as { kind, crop } (kind)}
    <a
      href="/look/{swatch.capture}?zone={encodeURIComponent(crop.zone)}"
      class="block shrink-0 overflow-hidden"
      title="{title(kind)}: look at it on the card"
    >
      <img
        src={crop.url}
        alt="{title(kind)} of {swatch.paint.name}"
        class="block max-w-none"
        style:width="{crop.width_mm * pixelsPerMm}px"
        style:height="{crop.height_mm * pixelsPerMm}px"
      />
    </a>
  {/each}
</div>
