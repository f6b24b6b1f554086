<script lang="ts">
  import { shortZoneTitle, type LayoutZone } from "../../lib/api/measurement";
  import type { LooseSheet, Point } from "./loose-sheet";
  import { nudged, pointOn, type Rect } from "./zones";

  interface Props {
    sheet: LooseSheet;
    picture: string;
    chosen: readonly string[];
    /** Two points are being clicked for the scale; zones stand back meanwhile. */
    picking: boolean;
    onplace: (id: string, rect: Rect) => void;
    onchoose: (ids: string[]) => void;
    ondraw: (rect: Rect) => void;
    onremove: () => void;
    onpicked: (millimetres: number) => void;
  }
  let { sheet, picture, chosen, picking, onplace, onchoose, ondraw, onremove, onpicked }: Props = $props();

  const LEAST_MM = 2;
  const [width, height] = $derived(sheet.size_mm);
  const thin = $derived(Math.max(width, height) / 600);
  let svg = $state<SVGSVGElement>();
  type Held = { id: string; part: "all" | "start" | "end"; rect: Rect; from: Point };
  let held = $state<Held | null>(null);
  let drawn = $state<{ from: Point; to: Point } | null>(null);
  let points = $state<Point[]>([]);

  const millimetres = (event: PointerEvent): Point => pointOn(svg!, event, width, height);
  const between = ([ax, ay]: Point, [bx, by]: Point): Rect => [
    Math.min(ax, bx),
    Math.min(ay, by),
    Math.abs(ax - bx),
    Math.abs(ay - by),
  ];

  const ways: Record<string, string> = { "+x": " →", "-x": " ←", "+y": " ↓", "-y": " ↑" };
  /** As much as fits into the zone. */
  function caption(zone: LayoutZone): string {
    const whole = `${zone.swatch ?? ""} ${shortZoneTitle(zone.kind)}${zone.axis ? (ways[zone.axis] ?? "") : ""}`.trim();
    return whole.length * 5.4 * thin < zone.rect_mm[2] ? whole : (zone.swatch ?? "");
  }

  function take(event: PointerEvent, id: string, part: Held["part"]): void {
    if (picking) return;
    event.stopPropagation();
    const zone = sheet.zones.find((z) => z.id === id)!;
    held = { id, part, rect: zone.rect_mm as Rect, from: millimetres(event) };
    if (event.shiftKey) onchoose(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
    else if (!chosen.includes(id)) onchoose([id]);
    svg?.setPointerCapture(event.pointerId);
  }
  function onpointerdown(event: PointerEvent): void {
    const here = millimetres(event);
    if (picking) {
      points = points.length === 1 ? [points[0]!, here] : [here];
      if (points.length === 2) onpicked(Math.hypot(points[0]![0] - points[1]![0], points[0]![1] - points[1]![1]));
      return;
    }
    onchoose([]);
    drawn = { from: here, to: here };
    svg?.setPointerCapture(event.pointerId);
  }
  function onpointermove(event: PointerEvent): void {
    const here = millimetres(event);
    if (drawn) drawn = { ...drawn, to: here };
    if (!held) return;
    const [dx, dy] = [here[0] - held.from[0], here[1] - held.from[1]];
    const [x, y, w, h] = held.rect;
    if (held.part === "all") onplace(held.id, [x + dx, y + dy, w, h]);
    else if (held.part === "end") onplace(held.id, [x, y, Math.max(LEAST_MM, w + dx), Math.max(LEAST_MM, h + dy)]);
    else {
      const [left, top] = [Math.min(dx, w - LEAST_MM), Math.min(dy, h - LEAST_MM)];
      onplace(held.id, [x + left, y + top, w - left, h - top]);
    }
  }
  function onpointerup(): void {
    if (drawn) {
      const rect = between(drawn.from, drawn.to);
      if (rect[2] >= LEAST_MM && rect[3] >= LEAST_MM) ondraw(rect);
    }
    drawn = held = null;
  }
  function onkeydown(event: KeyboardEvent, id: string, rect: Rect): void {
    if (event.key === " ") onchoose(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);
    else if (event.key === "Delete") {
      if (!chosen.includes(id)) onchoose([id]);
      onremove();
    } else {
      const moved = nudged(rect, event.key, event.shiftKey);
      if (!moved) return;
      onplace(id, moved);
    }
    event.preventDefault();
  }
  $effect(() => {
    if (!picking) points = [];
  });
</script>

<!-- The picture is drawn on by pointer; each zone on it is reached by Tab and moved by keys as well. -->
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<svg
  bind:this={svg}
  viewBox="0 0 {width} {height}"
  class="bg-paper block w-full touch-none select-none {picking ? 'cursor-crosshair' : ''}"
  role="group"
  aria-label="Zones on the sheet"
  {onpointerdown}
  {onpointermove}
  {onpointerup}
>
  <image href={picture} x="0" y="0" {width} {height} preserveAspectRatio="none" />
  {#each sheet.zones as zone (zone.id)}
    {@const rect = zone.rect_mm as Rect}
    {@const on = chosen.includes(zone.id)}
    <!-- White under black, so that the line shows on any paint. -->
    <g opacity={picking ? 0.35 : 1}>
      <rect
        x={rect[0]}
        y={rect[1]}
        width={rect[2]}
        height={rect[3]}
        fill="none"
        stroke="#fff"
        stroke-width={3 * thin}
      />
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <rect
        x={rect[0]}
        y={rect[1]}
        width={rect[2]}
        height={rect[3]}
        fill="transparent"
        stroke="#161616"
        stroke-width={on ? 2.4 * thin : thin}
        stroke-dasharray={zone.kind === "paper" ? `${4 * thin} ${3 * thin}` : undefined}
        class="cursor-move outline-none focus-visible:[stroke-width:var(--focused)]"
        style:--focused={3.4 * thin}
        tabindex="0"
        role="img"
        aria-label="{zone.id}, {shortZoneTitle(zone.kind)}{on ? ', chosen' : ''}"
        onkeydown={(e) => {
          onkeydown(e, zone.id, rect);
        }}
        onpointerdown={(e) => {
          take(e, zone.id, "all");
        }}
      />
      <text
        x={rect[0] + 3 * thin}
        y={rect[1] + 11 * thin}
        font-size={10 * thin}
        stroke="#fff"
        stroke-width={2.5 * thin}
        paint-order="stroke"
        fill="#161616"
        class="pointer-events-none">{caption(zone)}</text
      >
      {#if on && !picking}
        {#each [{ part: "start", x: rect[0], y: rect[1] }, { part: "end", x: rect[0] + rect[2], y: rect[1] + rect[3] }] as const as corner (corner.part)}
          <rect
            x={corner.x - 4 * thin}
            y={corner.y - 4 * thin}
            width={8 * thin}
            height={8 * thin}
            fill="#fff"
            stroke="#161616"
            stroke-width={thin}
            class="cursor-nwse-resize"
            role="presentation"
            onpointerdown={(e) => {
              take(e, zone.id, corner.part);
            }}
          />
        {/each}
      {/if}
    </g>
  {/each}
  {#if drawn}
    {@const [x, y, w, h] = between(drawn.from, drawn.to)}
    <rect {x} {y} width={w} height={h} fill="none" stroke="#161616" stroke-width={thin} stroke-dasharray={3 * thin} />
  {/if}
  {#each points as [x, y], index (index)}
    <circle cx={x} cy={y} r={4 * thin} fill="none" stroke="#fff" stroke-width={3 * thin} />
    <circle cx={x} cy={y} r={4 * thin} fill="none" stroke="#161616" stroke-width={1.4 * thin} />
  {/each}
</svg>
