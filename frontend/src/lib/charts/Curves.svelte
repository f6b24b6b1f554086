<script lang="ts">
  import { linear, polyline } from "./scales";

  interface Props {
    /** One or two curves over the same axis; the second is drawn dashed. */
    curves: { name: string; points: readonly (readonly [number, number])[] }[];
    across: string;
    up: string;
    width?: number;
    height?: number;
  }
  let { curves, across, up, width = 264, height = 150 }: Props = $props();
  const all = $derived(curves.flatMap((curve) => curve.points));
  const reach = $derived(Math.max(0.001, ...all.map(([x]) => x)));
  const most = $derived(Math.max(0.001, ...all.map(([, y]) => y)));
  const x = $derived(linear([0, reach], [34, width - 6]));
  const y = $derived(linear([0, most * 1.1], [height - 26, 20]));
  const digits = (span: number): number => (span < 2 ? 1 : 0);
</script>

<svg {width} {height} role="img" aria-label="{up} over {across}: {curves.map((c) => c.name).join(', ')}" class="block">
  {#each x.ticks(5) as tick (tick)}
    <text x={x(tick)} y={height - 13} font-size="9" text-anchor="middle" fill="#5e5e5e"
      >{tick.toFixed(digits(reach))}</text
    >
  {/each}
  {#each y.ticks(3) as tick (tick)}
    <line x1={x(0)} x2={x(reach)} y1={y(tick)} y2={y(tick)} stroke="#d9d9d9" />
    <text x="30" y={y(tick) + 3} font-size="9" text-anchor="end" fill="#5e5e5e">{tick.toFixed(digits(most) + 1)}</text>
  {/each}
  {#each curves as curve, number (curve.name)}
    <polyline
      points={polyline(curve.points.map(([px, py]) => [x(px), y(py)] as const))}
      fill="none"
      stroke="#161616"
      stroke-width={number ? 1 : 1.8}
      stroke-dasharray={number ? "3 3" : undefined}
    />
  {/each}
  <text x={width - 6} y={height - 2} font-size="9" text-anchor="end" fill="#5e5e5e">{across}</text>
  <text x="6" y="10" font-size="9" fill="#5e5e5e">{up}</text>
</svg>
