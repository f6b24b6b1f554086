<script lang="ts">
  import type { MeasurementDocument, OtherShot } from "../../lib/api/measurement";
  import { lampFrom } from "../capture/sides";

  interface Props {
    document: MeasurementDocument;
    algorithm: string;
    versions: number;
  }
  let { document, algorithm, versions }: Props = $props();
  const calibration = $derived(document.calibration);
  const rests: Record<string, string> = {
    target: "the target's measured values",
    profile: "the file's own profile; wide uncertainties",
    grey: "grey patches alone; hues are hardly known",
    none: "nothing; ratios inside it at most, no colours",
  };
  const models: Record<string, string> = {
    linear: "matrix, 3 × 3",
    "root-polynomial-2": "root polynomial, degree 2",
    "root-polynomial-3": "root polynomial, degree 3",
    "spectral-prior": "the device's sensitivities, from spectra",
    "guessed-spectra": "the device's sensitivities, from guessed spectra",
    "white-paper": "an ordinary screen's, on white paper",
  };
  const rest = $derived(
    calibration.tier === "grey" && calibration.model === "white-paper"
      ? "the paper taken for white; hues are hardly known"
      : rests[calibration.tier],
  );
  const words: [string, string, string][] = [
    ["camera", "", ""],
    ["lens", "", ""],
    ["exposure_s", "", " s"],
    ["f_number", "f/", ""],
    ["iso", "ISO ", ""],
    ["focal_length_mm", "", " mm"],
  ];
  const device = $derived(
    words
      .filter(([key]) => document.device?.[key] !== undefined)
      .map(([key, before, after]) => `${before}${document.device![key]}${after}`)
      .join(", "),
  );
  const states: Record<string, string> = { wet: "still wet", before_lifting: "before lifting" };
  function titleOf(shot: OtherShot): string {
    return shot.light === "rake" ? lampFrom(shot.azimuth_deg) : (states[shot.state] ?? "even light again");
  }
  const fringes = $derived(Math.max(0, ...(calibration.fringes_px ?? [])));
  const left = $derived(calibration.gates.filter((g) => g.state !== "pass"));
</script>

<h2 class="mb-1">How far to trust this capture</h2>
<dl class="grid grid-cols-[8rem_1fr] gap-y-0.5">
  <dt class="text-faint">tier of trust</dt>
  <dd><b class="font-semibold">{calibration.tier}</b> <span class="text-faint">{rest}</span></dd>
  <dt class="text-faint">colour model</dt>
  <dd title={calibration.model}>
    {calibration.tier === "none" ? "none" : (models[calibration.model] ?? calibration.model)}
  </dd>
  <dt class="text-faint">a patch by the rest</dt>
  <dd title="Each reference patch, predicted from the other ones alone">
    {#if calibration.cross_validated_de00}
      {calibration.cross_validated_de00.mean.toFixed(2)} ΔE00 off, 95 % under {calibration.cross_validated_de00.p95.toFixed(
        1,
      )}
    {:else}no reference{/if}
  </dd>
  <dt class="text-faint">resolution</dt>
  <dd>
    {#if calibration.pixels_per_mm}
      {calibration.pixels_per_mm.toFixed(2)} px/mm ({(calibration.pixels_per_mm * 25.4).toFixed(0)} dpi)
    {:else}unknown: no scale was given{/if}
  </dd>
  {#if calibration.reprojection_px !== null}
    <dt class="text-faint">tags fit to</dt>
    <dd>{calibration.reprojection_px.toFixed(3)} px</dd>
  {:else}
    <dt class="text-faint">placed by</dt>
    <dd>its corners</dd>
  {/if}
  {#if (calibration.tilt_deg ?? 0) > 1.5 || calibration.lens_bend}
    <dt class="text-faint">taken out</dt>
    <dd>
      {calibration.tilt_deg?.toFixed(0)}° of tilt{calibration.lens_bend
        ? `, ${(Math.abs(calibration.lens_bend) * 100).toFixed(1)} % of lens bend`
        : ""}
    </dd>
  {/if}
  {#if device}
    <dt class="text-faint">device</dt>
    <dd>{device}</dd>
  {/if}
  {#if document.shots?.length}
    <dt class="text-faint">other shots</dt>
    <dd>
      {#each document.shots as shot (shot.file)}
        <span class="block" title={shot.file}>
          {titleOf(shot)}{shot.registration_mm === null ? "" : `, ${shot.registration_mm.toFixed(3)} mm off`}
        </span>
      {/each}
    </dd>
  {/if}
  <dt class="text-faint">blur</dt>
  <dd>{calibration.blur_mm === null ? "unknown" : `${calibration.blur_mm.toFixed(3)} mm (σ)`}</dd>
  {#if calibration.sharpening}
    <dt class="text-faint">sharpened</dt>
    <dd>by the device, {calibration.sharpening.halo.toFixed(1)} times; undone in the figures</dd>
  {/if}
  {#if fringes > 0}
    <dt class="text-faint">colour fringes</dt>
    <dd>{fringes.toFixed(2)} px at most; laid back on green</dd>
  {/if}
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
