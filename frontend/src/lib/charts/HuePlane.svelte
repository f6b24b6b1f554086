<script lang="ts">
  import type { Lab, SwatchFigures } from "../api/measurement";
  import { signed } from "../format";
  import { hueArc, hueDeg, linear, planeReach, polyline } from "./scales";

  interface Props {
    figures: SwatchFigures;
    size?: number;
  }
  let { figures, size = 300 }: Props = $props();
  const path = $derived(figures.path.map((p) => p.lab));
  const reach = $derived(planeReach(path));
  const x = $derived(linear([-reach, reach], [14, size - 14]));
  const y = $derived(linear([-reach, reach], [size - 14, 14]));
  const unit = $derived((size - 28) / (2 * reach));
  const shift = $derived(figures.hue_shift);
  const places = $derived(
    (["masstone", "half", "wash"] as const).flatMap((key) => {
      const lab = figures[key].lab;
      return lab ? [{ key, lab: lab as Lab, uLab: figures[key].u_lab ?? null }] : [];
    }),
  );
  const arcRadius = $derived((reach - 4) * unit);
  const label = $derived(
    shift.delta_h === null
      ? `a* b* plane; hue shift ${shift.absent ?? "absent"}`
      : `a* b* plane: hue turns ${signed(shift.delta_h, 1)} degrees from masstone to wash`,
  );
</script>

<svg width={size} height={size} role="img" aria-label={label} class="block">
  {#each Array.from({ length: reach / 20 }, (_, i) => (i + 1) * 20) as ring (ring)}
    <circle cx={size / 2} cy={size / 2} r={ring * unit} fill="none" stroke="#dedede" />
    <text x={size / 2 + ring * unit - 3} y={size / 2 - 3} font-size="9" text-anchor="end" fill="#5e5e5e">{ring}</text>
  {/each}
  <line x1="14" x2={size - 14} y1={size / 2} y2={size / 2} stroke="#9b9b9b" />
  <line y1="14" y2={size - 14} x1={size / 2} x2={size / 2} stroke="#9b9b9b" />
  <text x={size - 4} y={size / 2 + 14} font-size="11" text-anchor="end" fill="#5e5e5e">+a*</text>
  <text x={size / 2 + 6} y="12" font-size="11" fill="#5e5e5e">+b*</text>
  {#if shift.delta_h !== null && figures.masstone.lab}
    <path
      d={hueArc(size / 2, arcRadius, hueDeg(figures.masstone.lab), shift.delta_h)}
      fill="none"
      stroke="#161616"
      stroke-width="3"
    />
  {/if}
  <polyline
    points={polyline(path.map((lab) => [x(lab[1]), y(lab[2])] as const))}
    fill="none"
    stroke="#161616"
    stroke-width="1.4"
  />
  {#each places as place (place.key)}
    {#if place.uLab}
      <ellipse
        cx={x(place.lab[1])}
        cy={y(place.lab[2])}
        rx={2 * place.uLab[1] * unit}
        ry={2 * place.uLab[2] * unit}
        fill="#161616"
        opacity="0.13"
      />
    {/if}
    <circle
      cx={x(place.lab[1])}
      cy={y(place.lab[2])}
      r="4"
      fill={place.key === "masstone" ? "#161616" : place.key === "half" ? "#9b9b9b" : "#fff"}
      stroke="#161616"
      stroke-width="1.3"
    >
      <title>{place.key}: a* {place.lab[1].toFixed(1)}, b* {place.lab[2].toFixed(1)}</title>
    </circle>
  {/each}
</svg>
