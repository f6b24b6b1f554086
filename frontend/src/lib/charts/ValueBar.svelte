<script lang="ts">
  import type { SwatchFigures } from "../api/measurement";
  import { linear } from "./scales";

  interface Props {
    figures: SwatchFigures;
    width?: number;
  }
  let { figures, width = 620 }: Props = $props();
  const range = $derived(figures.value_range);
  const x = $derived(linear([0, 100], [10, width - 10]));
  /** Neutral display grey of a lightness (sRGB, IEC 61966-2-1). */
  function grey(l: number): string {
    const light = l > 8 ? ((l + 16) / 116) ** 3 : l / 903.3;
    const code = Math.round(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * light ** (1 / 2.4) - 0.055));
    return `rgb(${code},${code},${code})`;
  }
  const ends = $derived(
    range.masstone_L === null || range.wash_L === null
      ? []
      : [
          { name: "masstone", l: range.masstone_L, u: figures.masstone.u_lab?.[0] ?? null },
          { name: "wash", l: range.wash_L, u: figures.wash.u_lab?.[0] ?? null },
        ],
  );
</script>

<svg
  {width}
  height="56"
  role="img"
  aria-label={ends.length
    ? `Value from ${(ends[0]!.l / 10).toFixed(1)} to ${(ends[1]!.l / 10).toFixed(1)} on the ten-step scale`
    : "Value range not measured"}
  class="block"
>
  {#each Array.from({ length: 10 }, (_, i) => i) as step (step)}
    <rect x={x(step * 10)} y="28" width={x(10) - x(0)} height="16" fill={grey(step * 10 + 5)} />
    <text x={x(step * 10)} y="54" font-size="9" text-anchor="middle" fill="#5e5e5e">{step}</text>
  {/each}
  <text x={x(100)} y="54" font-size="9" text-anchor="middle" fill="#5e5e5e">10</text>
  {#if ends.length === 2}
    <line x1={x(ends[0]!.l)} x2={x(ends[1]!.l)} y1="18" y2="18" stroke="#161616" stroke-width="1.4" />
    {#each ends as end (end.name)}
      {#if end.u !== null}
        <line
          x1={x(end.l - 2 * end.u)}
          x2={x(end.l + 2 * end.u)}
          y1="18"
          y2="18"
          stroke="#161616"
          stroke-width="4"
          opacity="0.35"
        />
      {/if}
      <line x1={x(end.l)} x2={x(end.l)} y1="12" y2="28" stroke="#161616" stroke-width="1.6" />
      <text x={x(end.l)} y="9" font-size="10" text-anchor="middle" fill="#161616"
        >{end.name} {(end.l / 10).toFixed(1)}</text
      >
    {/each}
  {/if}
</svg>
