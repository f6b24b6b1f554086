<script lang="ts">
  import type { Paint } from "../../lib/api/client";
  import { zoneMark, type LayoutDocument } from "../../lib/api/measurement";

  interface Props {
    layout: LayoutDocument;
    paints: Record<string, Paint>;
    detailed?: boolean;
    /** Ids of zones to point at; the others stand back. */
    marked?: readonly string[];
  }
  let { layout, paints, detailed = false, marked = [] }: Props = $props();
  const extra = $derived(
    layout as { heads?: { text: string; rect_mm: number[] }[]; windows?: number[][] } & LayoutDocument,
  );
  const [width, height] = $derived(layout.size_mm);
  /** What a letter of a zone's mark takes, mm. */
  const MARK_MM = 1.1;
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
    {@const mark = zoneMark(zone)}
    <rect
      {x}
      {y}
      width={w}
      height={h}
      fill={zone.kind === "ink" || zone.kind === "over_ink" ? "#3a3a3a" : "#f2f2f2"}
      stroke={marked.includes(zone.id) ? "#161616" : "#9b9b9b"}
      stroke-width={marked.includes(zone.id) ? 0.9 : 0.25}
      opacity={marked.length && !marked.includes(zone.id) ? 0.35 : 1}
    />
    {#if detailed && mark.length * MARK_MM < w}
      <text
        x={x + w / 2}
        y={y + h / 2}
        font-size="2.1"
        text-anchor="middle"
        fill={zone.kind.endsWith("ink") && zone.kind !== "beside_ink" ? "#fff" : "#5e5e5e"}>{mark}</text
      >
    {/if}
    {#if zone.kind === "masstone" && zone.swatch && !extra.heads}
      {@const paint = paints[zone.swatch]}
      <text {x} y={y - 0.9} font-size="2.7" fill="#161616">
        {zone.swatch}
        {paint ? `${paint.name} · ${paint.maker} · ${paint.pigments.join(" ")}` : "not named yet"}
      </text>
    {/if}
  {/each}
  {#each extra.heads ?? [] as head, index (index)}
    {@const [x = 0, y = 0, w = 0, h = 0] = head.rect_mm}
    <text
      {x}
      y={y + h - 0.8}
      font-size="2.4"
      fill="#161616"
      textLength={head.text.length * 1.2 > w ? w : undefined}
      lengthAdjust="spacingAndGlyphs">{head.text}</text
    >
  {/each}
  {#each extra.windows ?? [] as [x, y, w, h], index (index)}
    <rect {x} {y} width={w} height={h} fill="none" stroke="#3a3a3a" stroke-width="0.3" stroke-dasharray="2 1" />
  {/each}
</svg>
