<script lang="ts">
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";
  import { lampFrom } from "../capture/sides";

  interface Props {
    /** Pictures by the lamp's side in degrees ("090"), or "even", "low". */
    lights: { side: string; url: string }[];
    pixelsPerMm: number;
  }
  let { lights, pixelsPerMm }: Props = $props();
  const ordered = $derived(
    [...lights].sort((a, b) => (a.side === "even" ? -1 : b.side === "even" ? 1 : Number(a.side) - Number(b.side))),
  );
  // Glints show under the lamp: the first of its places, not the even light before them.
  let at = $state(1);
  const shown = $derived(ordered[Math.min(at, ordered.length - 1)]);
  const words = (side: string): string =>
    side === "even" ? "even light" : lampFrom(side === "low" ? null : Number(side));
  const size = 104;
  const onCard = 22;
  function place(side: string): { x: number; y: number } {
    const angle = (Number(side) * Math.PI) / 180;
    return { x: size / 2 + 40 * Math.cos(angle), y: size / 2 + 40 * Math.sin(angle) };
  }
  /** The lamp's place that is nearest to the pointer; over the card the light is even. */
  function move(event: PointerEvent & { currentTarget: SVGSVGElement }): void {
    if (event.type === "pointermove" && event.buttons === 0) return;
    const box = event.currentTarget.getBoundingClientRect();
    const x = event.clientX - box.x;
    const y = event.clientY - box.y;
    const away = (side: string): number => {
      if (side === "even") return Math.hypot(x - size / 2, y - size / 2) < onCard ? -1 : Infinity;
      const there = place(side);
      return Math.hypot(x - there.x, y - there.y);
    };
    const nearest = ordered.reduce((best, light) => (away(light.side) < away(best.side) ? light : best));
    at = ordered.indexOf(nearest);
  }
</script>

{#if shown}
  <div class="flex items-start gap-3">
    <div class="grid w-[272px]">
      {#each ordered as light (light.side)}
        <img
          src={light.url}
          alt={light.side === shown.side ? `The paint: ${words(light.side)}` : ""}
          aria-hidden={light.side !== shown.side}
          class="w-full [grid-area:1/1] {light.side === shown.side ? '' : 'invisible'}"
        />
      {/each}
      <div class="mt-1"><ScaleBar {pixelsPerMm} /></div>
    </div>
    <label class="text-xs">
      <svg
        width={size}
        height={size}
        aria-hidden="true"
        class="cursor-pointer touch-none"
        onpointerdown={move}
        onpointermove={move}
      >
        <rect x="30" y="37" width="44" height="30" class="fill-strip stroke-hairline" />
        {#each ordered.filter((l) => l.side !== "even" && l.side !== "low") as light (light.side)}
          {@const p = place(light.side)}
          <circle
            cx={p.x}
            cy={p.y}
            r={light.side === shown.side ? 7 : 4}
            class="stroke-ink {light.side === shown.side ? 'fill-ink' : 'fill-paper'}"
          />
        {/each}
      </svg>
      <input
        type="range"
        min="0"
        max={ordered.length - 1}
        step="1"
        class="w-[104px]"
        bind:value={at}
        aria-valuetext={words(shown.side)}
        aria-label="Where the lamp stands"
      />
      <span class="block w-[104px]">{words(shown.side)}</span>
    </label>
  </div>
{/if}
