<script lang="ts">
  import { shortZoneTitle, type LayoutDocument } from "../../lib/api/measurement";
  import { nudged, pointOn, type Rect } from "./zones";

  interface Props {
    layout: LayoutDocument;
    onchange: (id: string, rect: Rect) => void;
  }
  let { layout, onchange }: Props = $props();
  const [width, height] = $derived(layout.size_mm);
  let svg = $state<SVGSVGElement>();
  let held = $state<{ id: string; rect: Rect; x: number; y: number } | null>(null);

  function millimetres(event: PointerEvent): { x: number; y: number } {
    const [x, y] = pointOn(svg!, event, width, height);
    return { x, y };
  }
  function onpointermove(event: PointerEvent): void {
    if (!held) return;
    const here = millimetres(event);
    const [x, y, w, h] = held.rect;
    const step = (v: number) => Math.round(v * 2) / 2;
    onchange(held.id, [step(x + here.x - held.x), step(y + here.y - held.y), w, h]);
  }
  function onkeydown(event: KeyboardEvent, id: string, rect: Rect): void {
    const moved = nudged(rect, event.key, event.shiftKey);
    if (!moved) return;
    event.preventDefault();
    onchange(id, moved);
  }
</script>

<svg
  bind:this={svg}
  viewBox="0 0 {width} {height}"
  class="absolute inset-0 h-full w-full touch-none"
  role="group"
  aria-label="Zones to move"
  {onpointermove}
  onpointerup={() => (held = null)}
>
  {#each layout.zones as zone (zone.id)}
    {@const rect = zone.rect_mm as Rect}
    <!-- A zone is moved like a handle: by the pointer or by arrow keys. -->
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <rect
      x={rect[0]}
      y={rect[1]}
      width={rect[2]}
      height={rect[3]}
      fill="transparent"
      stroke="#161616"
      stroke-width="0.5"
      class="cursor-move outline-none focus-visible:[stroke-width:1.2]"
      tabindex="0"
      role="img"
      aria-label="{shortZoneTitle(zone.kind)} {zone.id}, {rect[0]} mm from the left, {rect[1]} mm from the top"
      onkeydown={(e) => {
        onkeydown(e, zone.id, rect);
      }}
      onpointerdown={(e) => {
        held = { id: zone.id, rect, ...millimetres(e) };
        svg?.setPointerCapture(e.pointerId);
      }}
    />
  {/each}
</svg>
