<script lang="ts">
  import type { Lab, SwatchFigures } from "../api/measurement";
  import { linear, planeReach, polyline } from "./scales";

  interface Props {
    figures: SwatchFigures;
    width?: number;
    height?: number;
  }
  let { figures, width = 300, height = 300 }: Props = $props();
  const path = $derived(figures.path.map((p) => p.lab));
  const x = $derived(linear([0, planeReach(path)], [30, width - 8]));
  const y = $derived(linear([0, 100], [height - 24, 22]));
  const chroma = (lab: Lab) => Math.hypot(lab[1], lab[2]);
  /** Standard uncertainty of C* from those of a* and b*. */
  const chromaDoubt = (lab: Lab, u: Lab) => Math.hypot(lab[1] * u[1], lab[2] * u[2]) / Math.max(chroma(lab), 1);
  const places = $derived(
    (["masstone", "half", "wash"] as const).flatMap((key) => {
      const lab = figures[key].lab;
      return lab ? [{ key, lab, uLab: figures[key].u_lab ?? null }] : [];
    }),
  );
</script>

<svg
  {width}
  {height}
  role="img"
  aria-label="Lightness against chroma along the path from masstone to wash"
  class="block"
>
  {#each [0, 20, 40, 60, 80, 100] as level (level)}
    <line x1="30" x2={width - 8} y1={y(level)} y2={y(level)} stroke="#dedede" />
    <text x="26" y={y(level) + 3} font-size="9" text-anchor="end" fill="#5e5e5e">{level}</text>
  {/each}
  {#each x.ticks(5).slice(0, -1) as tick (tick)}
    <text x={x(tick)} y={height - 10} font-size="9" text-anchor="middle" fill="#5e5e5e">{tick}</text>
  {/each}
  <line x1="30" x2="30" y1="22" y2={height - 24} stroke="#9b9b9b" />
  <text x="4" y="12" font-size="11" fill="#5e5e5e">L*</text>
  <text x={width - 6} y={height - 10} font-size="11" text-anchor="end" fill="#5e5e5e">C*</text>
  <polyline
    points={polyline(path.map((lab) => [x(chroma(lab)), y(lab[0])] as const))}
    fill="none"
    stroke="#161616"
    stroke-width="1.4"
  />
  {#each places as place (place.key)}
    {@const cx = x(chroma(place.lab))}
    {@const cy = y(place.lab[0])}
    {#if place.uLab}
      {@const up = Math.abs(y(0) - y(2 * place.uLab[0]))}
      {@const along = Math.abs(x(0) - x(2 * chromaDoubt(place.lab, place.uLab)))}
      <path d="M{cx},{cy - up}V{cy + up}M{cx - 3},{cy - up}h6M{cx - 3},{cy + up}h6" stroke="#161616" fill="none" />
      <path
        d="M{cx - along},{cy}H{cx + along}M{cx - along},{cy - 3}v6M{cx + along},{cy - 3}v6"
        stroke="#161616"
        fill="none"
      />
    {/if}
    <circle
      {cx}
      {cy}
      r="4"
      fill={place.key === "masstone" ? "#161616" : place.key === "half" ? "#9b9b9b" : "#fff"}
      stroke="#161616"
      stroke-width="1.3"
    >
      <title>{place.key}: L* {place.lab[0].toFixed(1)}, C* {chroma(place.lab).toFixed(1)}</title>
    </circle>
  {/each}
</svg>
