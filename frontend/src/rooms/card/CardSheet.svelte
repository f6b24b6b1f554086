<script lang="ts">
  import type { Paint } from "../../lib/api/client";
  import { shortZoneTitle, type LayoutDocument } from "../../lib/api/measurement";

  interface Props {
    layout: LayoutDocument;
    paints: Record<string, Paint>;
    detailed?: boolean;
  }
  let { layout, paints, detailed = false }: Props = $props();
  const [width, height] = $derived(layout.size_mm);
  const code = $derived((layout as { code?: { rect_mm: number[] } }).code?.rect_mm);
</script>

<svg
  viewBox="0 0 {width} {height}"
  class="bg-paper block w-full"
  role="img"
  aria-label="Card {layout.card_id}, {width} by {height} mm"
>
  {#each layout.fiducials.tags as tag (tag.id)}
    <rect
      x={tag.center_mm[0] - tag.size_mm / 2}
      y={tag.center_mm[1] - tag.size_mm / 2}
      width={tag.size_mm}
      height={tag.size_mm}
      fill="#161616"
    />
    <text x={tag.center_mm[0]} y={tag.center_mm[1] + 1.2} font-size="3.4" text-anchor="middle" fill="#fff"
      >{tag.id}</text
    >
  {/each}
  {#each layout.reference.patches as patch (patch.id)}
    <rect
      x={patch.rect_mm[0]}
      y={patch.rect_mm[1]}
      width={patch.rect_mm[2]}
      height={patch.rect_mm[3]}
      fill="none"
      stroke="#9b9b9b"
      stroke-width="0.25"
    />
    {#if detailed}
      <text
        x={patch.rect_mm[0] + patch.rect_mm[2] / 2}
        y={patch.rect_mm[1] + patch.rect_mm[3] / 2 + 0.7}
        font-size="1.9"
        text-anchor="middle"
        fill="#5e5e5e">{patch.id}</text
      >
    {/if}
  {/each}
  {#if code}
    <rect
      x={code[0]}
      y={code[1]}
      width={code[2]}
      height={code[3]}
      fill="none"
      stroke="#161616"
      stroke-width="0.4"
      stroke-dasharray="0.8 0.6"
    />
    <text
      x={(code[0] ?? 0) + (code[2] ?? 0) / 2}
      y={(code[1] ?? 0) + (code[3] ?? 0) / 2 + 0.8}
      font-size="2.2"
      text-anchor="middle"
      fill="#5e5e5e">code</text
    >
  {/if}
  {#each layout.zones as zone (zone.id)}
    {@const [x, y, w, h] = zone.rect_mm}
    <rect
      {x}
      {y}
      width={w}
      height={h}
      fill={zone.kind === "ink" || zone.kind === "over_ink" ? "#3a3a3a" : "#f2f2f2"}
      stroke="#9b9b9b"
      stroke-width="0.25"
    />
    {#if detailed}
      <text
        x={x + w / 2}
        y={y + h / 2}
        font-size="2.1"
        text-anchor="middle"
        fill={zone.kind.endsWith("ink") && zone.kind !== "beside_ink" ? "#fff" : "#5e5e5e"}
        >{shortZoneTitle(zone.kind)}</text
      >
    {/if}
    {#if zone.kind === "masstone" && zone.swatch}
      <text {x} y={y - 0.9} font-size="2.7" fill="#161616">
        {zone.swatch}
        {paints[zone.swatch]?.name ?? ""} · {paints[zone.swatch]?.maker ?? ""} · {paints[zone.swatch]?.pigments.join(
          " ",
        ) ?? ""}
      </text>
    {/if}
  {/each}
</svg>
