<script lang="ts">
  import type { MeasurementDocument } from "../../lib/api/measurement";

  interface Props {
    calibration: MeasurementDocument["calibration"];
    algorithm: string;
    versions: number;
  }
  let { calibration, algorithm, versions }: Props = $props();
  const left = $derived(calibration.gates.filter((g) => g.state !== "pass"));
</script>

<h2 class="mb-1">How far to trust this capture</h2>
<dl class="grid grid-cols-[8rem_1fr] gap-y-0.5">
  <dt class="text-faint">tier of trust</dt>
  <dd><b class="font-semibold">{calibration.tier}</b></dd>
  <dt class="text-faint">colour model</dt>
  <dd>{calibration.model}</dd>
  <dt class="text-faint">patches left out</dt>
  <dd>
    {#if calibration.cross_validated_de00}
      ± {calibration.cross_validated_de00.mean.toFixed(2)} ΔE00, 95 % under {calibration.cross_validated_de00.p95.toFixed(
        1,
      )}
    {:else}no reference{/if}
  </dd>
  <dt class="text-faint">resolution</dt>
  <dd>{calibration.pixels_per_mm.toFixed(2)} px/mm ({(calibration.pixels_per_mm * 25.4).toFixed(0)} dpi)</dd>
  <dt class="text-faint">tags fit to</dt>
  <dd>{calibration.reprojection_px?.toFixed(3)} px</dd>
  <dt class="text-faint">blur</dt>
  <dd>{calibration.blur_mm === null ? "unknown" : `${calibration.blur_mm.toFixed(3)} mm (σ)`}</dd>
  <dt class="text-faint">made by</dt>
  <dd>{algorithm}{versions > 1 ? `, version ${versions} of this capture` : ""}</dd>
</dl>
{#if left.length === 0}
  <p class="mt-2 font-serif">✓ All {calibration.gates.length} gates passed.</p>
{/if}
{#each left as gate (gate.id)}
  <p class="mt-2 font-serif"><span aria-label={gate.state}>{gate.state === "fail" ? "✕" : "△"}</span> {gate.advice}</p>
{/each}
<p class="text-faint mt-3">Click a zone on the card, or step through them with <kbd>[</kbd> and <kbd>]</kbd>.</p>
