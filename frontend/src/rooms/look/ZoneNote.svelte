<script lang="ts">
  import { zoneTitle, type LayoutZone, type ZoneFigures } from "../../lib/api/measurement";
  import { labText, sizeText, withUncertainty } from "../../lib/format";

  interface Props {
    zone: LayoutZone;
    figures: ZoneFigures | undefined;
    crop: string;
    /** Whether the scale is known: millimetres mean nothing without it. */
    sized: boolean;
  }
  let { zone, figures, crop, sized }: Props = $props();
</script>

<div class="border-ink border-l-2 pl-3" data-testid="zone-note">
  <p class="font-serif text-base">{zoneTitle(zone.kind)} <span class="text-faint font-sans text-xs">{zone.id}</span></p>
  {#if figures?.lab}
    <img src={crop} alt="The {zoneTitle(zone.kind)} zone as captured" class="my-1 max-h-24 max-w-full" />
    <dl class="grid grid-cols-[8.5rem_1fr] gap-y-0.5">
      <dt class="text-faint">L* a* b*, absolute</dt>
      <dd>{labText(figures.lab)}</dd>
      <dt class="text-faint">C*, h</dt>
      <dd>{figures.lch?.[1].toFixed(1)}, {figures.lch?.[2].toFixed(0)}°</dd>
      <dt class="text-faint">uncertainty</dt>
      <dd>± {figures.u?.toFixed(1)} ΔE00</dd>
      <dt class="text-faint">spread (SD)</dt>
      <dd>{labText(figures.sd)}</dd>
      <dt class="text-faint">used</dt>
      <dd>
        {withUncertainty((figures.used_fraction ?? 0) * 100, null, 0)} % of {sized
          ? sizeText(zone.rect_mm)
          : "the zone"}
      </dd>
    </dl>
    {#if (figures.beyond_gamut ?? 0) > 0.5}
      <p class="mt-1 font-serif">
        △ It lies {figures.beyond_gamut!.toFixed(0)} ΔE outside the colours of the reference patches, so that its uncertainty
        is wider.
      </p>
    {/if}
    {#if figures.in_gamut === false}<p class="mt-1 font-serif">More vivid than this screen can show.</p>{/if}
  {:else}
    <p class="border-hairline mt-1 border border-dashed p-2">Not measured: {figures?.absent ?? "no figures"}.</p>
  {/if}
</div>
