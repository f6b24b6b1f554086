<script lang="ts">
  import { zoneTitle, type LayoutDocument } from "../api/measurement";
  import { toScreen, type Placement } from "./placement";

  interface Props {
    layout: LayoutDocument;
    placement: Placement;
    width: number;
    height: number;
    selected: string | null;
    showZones: boolean;
    noteAt: number | null;
  }
  let { layout, placement, width, height, selected, showZones, noteAt }: Props = $props();
  const titled = $derived(placement.pixelsPerMm > 7);
  const chosen = $derived(layout.zones.find((z) => z.id === selected));
  const tie = $derived.by(() => {
    if (!chosen || noteAt === null) return null;
    const [x, y] = toScreen(
      placement,
      chosen.rect_mm[0] + chosen.rect_mm[2],
      chosen.rect_mm[1] + chosen.rect_mm[3] / 2,
    );
    return x > width ? null : { x, y };
  });
</script>

<svg class="pointer-events-none absolute inset-0" {width} {height} aria-hidden="true">
  {#each layout.zones as zone (zone.id)}
    {#if showZones || zone.id === selected}
      {@const [x, y] = toScreen(placement, zone.rect_mm[0], zone.rect_mm[1])}
      {@const w = zone.rect_mm[2] * placement.pixelsPerMm}
      {@const h = zone.rect_mm[3] * placement.pixelsPerMm}
      <rect
        {x}
        {y}
        width={w}
        height={h}
        fill="none"
        stroke="#fff"
        stroke-width={zone.id === selected ? 4 : 2}
        opacity="0.85"
      />
      <rect {x} {y} width={w} height={h} fill="none" stroke="#161616" stroke-width={zone.id === selected ? 2 : 0.8} />
      {#if titled}
        <text x={x + 4} y={y + 13} font-size="11" fill="#161616" stroke="#fff" stroke-width="3" paint-order="stroke"
          >{zoneTitle(zone.kind)}</text
        >
      {/if}
    {/if}
  {/each}
  {#if tie && noteAt !== null}
    <polyline
      points="{tie.x},{tie.y} {Math.max(tie.x + 8, width - 18)},{noteAt} {width},{noteAt}"
      fill="none"
      stroke="#fff"
      stroke-width="3"
      opacity="0.8"
    />
    <polyline
      points="{tie.x},{tie.y} {Math.max(tie.x + 8, width - 18)},{noteAt} {width},{noteAt}"
      fill="none"
      stroke="#161616"
      stroke-width="1"
    />
  {/if}
</svg>
