<script lang="ts">
  import type { Point } from "./loose-sheet";
  import { pointOn } from "./zones";

  interface Props {
    picture: string;
    size: Point;
    corners: readonly Point[];
    onmove: (index: number, to: Point) => void;
  }
  let { picture, size, corners, onmove }: Props = $props();
  const names = ["Top left", "Top right", "Bottom right", "Bottom left"];
  const unit = $derived(Math.max(...size) / 600);
  let svg = $state<SVGSVGElement>();
  let held = $state<number | null>(null);

  function onpointermove(event: PointerEvent): void {
    if (held !== null) onmove(held, pointOn(svg!, event, ...size));
  }
  function onkeydown(event: KeyboardEvent, index: number): void {
    const step = (event.shiftKey ? 10 : 1) * Math.max(1, Math.round(unit));
    const ways: Record<string, Point> = {
      ArrowLeft: [-step, 0],
      ArrowRight: [step, 0],
      ArrowUp: [0, -step],
      ArrowDown: [0, step],
    };
    const way = ways[event.key];
    const corner = corners[index];
    if (!way || !corner) return;
    event.preventDefault();
    onmove(index, [corner[0] + way[0], corner[1] + way[1]]);
  }
</script>

<svg
  bind:this={svg}
  viewBox="0 0 {size[0]} {size[1]}"
  class="bg-paper block w-full touch-none"
  role="group"
  aria-label="Corners of the sheet"
  {onpointermove}
  onpointerup={() => (held = null)}
>
  <image href={picture} x="0" y="0" width={size[0]} height={size[1]} preserveAspectRatio="none" />
  <polygon
    points={corners.map((c) => c.join(",")).join(" ")}
    fill="none"
    stroke="#fff"
    stroke-width={3 * unit}
    stroke-linejoin="round"
  />
  <polygon points={corners.map((c) => c.join(",")).join(" ")} fill="none" stroke="#161616" stroke-width={unit} />
  {#each corners as [x, y], index (index)}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <circle
      cx={x}
      cy={y}
      r={8 * unit}
      fill="#fff"
      fill-opacity="0.6"
      stroke="#161616"
      stroke-width={1.6 * unit}
      class="cursor-move outline-none focus-visible:[stroke-width:var(--focused)]"
      style:--focused={3.4 * unit}
      tabindex="0"
      role="img"
      aria-label="{names[index]} corner, {Math.round(x)} pixels from the left, {Math.round(y)} from the top"
      onkeydown={(e) => {
        onkeydown(e, index);
      }}
      onpointerdown={(e) => {
        held = index;
        svg?.setPointerCapture(e.pointerId);
      }}
    />
  {/each}
</svg>
