<script lang="ts">
  import type { LayoutDocument, MeasurementDocument } from "../../lib/api/measurement";
  import { measurementQuery } from "../../lib/api/queries";
  import { isTyping } from "../../lib/keys";
  import { fromAddress, route, toAddress } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";
  import CardViewer from "../../lib/viewer/CardViewer.svelte";
  import Calibration from "./Calibration.svelte";
  import Probe from "./Probe.svelte";
  import { Probing } from "./probing.svelte";
  import SwatchFigures from "./SwatchFigures.svelte";
  import ZoneNote from "./ZoneNote.svelte";

  const capture = $derived(Number(route.getParams("/look/:capture").capture));
  const measurement = measurementQuery(() => capture);
  const probing = new Probing(() => capture);
  const layout = $derived(measurement.data?.layout as LayoutDocument | undefined);
  const document = $derived(measurement.data?.document as MeasurementDocument | undefined);
  const sized = $derived(document?.calibration.pixels_per_mm !== null);
  const zoneId = $derived(fromAddress("zone"));
  const showZones = $derived(fromAddress("zones") !== "off");
  const zone = $derived(layout?.zones.find((z) => z.id === zoneId));
  const swatches = $derived(layout?.swatches ?? []);
  const swatchId = $derived(
    zone?.swatch ?? (zone ? (swatches.find((s) => zone.id.startsWith(`${s.id}.`))?.id ?? null) : null),
  );
  let viewer = $state<CardViewer>();
  let note = $state<HTMLElement>();
  let surface = $state<HTMLElement>();
  let noteAt = $state<number | null>(null);
  let pixelsPerMm = $state(0);

  function tieNote(): void {
    noteAt =
      note && surface
        ? Math.max(10, note.getBoundingClientRect().top - surface.getBoundingClientRect().top + 12)
        : null;
  }
  $effect(() => {
    if (zone && note) requestAnimationFrame(tieNote);
    else noteAt = null;
  });

  function choose(id: string | null, show = false): void {
    toAddress("zone", id);
    if (id && show) viewer?.showZone(id);
  }
  function step(by: number): void {
    if (!layout) return;
    const at = layout.zones.findIndex((z) => z.id === zoneId);
    const next = layout.zones[(at + by + layout.zones.length) % layout.zones.length];
    if (next) choose(next.id, true);
  }
  function onkeydown(event: KeyboardEvent): void {
    if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "]") step(1);
    else if (event.key === "[") step(-1);
    else if (event.key === "h") viewer?.showAll();
    else if (event.key === "z") toAddress("zones", showZones ? "off" : null);
    else if (event.key === "p") viewer?.pointAtMiddle();
    else if (event.key === "Escape") choose(null);
  }
</script>

<svelte:window {onkeydown} onresize={tieNote} />
<svelte:head><title>Look at {document?.card_id ?? "a card"} · Gelvet</title></svelte:head>
{#if measurement.error}
  <main class="p-6">
    <Notice kind="problem">{measurement.error.message}</Notice>
    <p class="mt-3"><Button href="/capture">To the captures</Button></p>
  </main>
{:else if layout && document && measurement.data}
  <div class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_360px]">
    <main class="flex min-h-0 flex-col">
      <header class="flex items-center justify-between gap-3 px-4 py-2">
        <h1 class="text-lg">{document.card_id}</h1>
        <div class="flex gap-2">
          <Button onclick={() => toAddress("zones", showZones ? "off" : null)}
            >{showZones ? "Hide zones" : "Show zones"}</Button
          >
          <Button onclick={() => viewer?.showAll()}>Whole card</Button>
          <Button href="/api/captures/{capture}/measure.json" download>Measurement file</Button>
        </div>
      </header>
      <div class="min-h-0 flex-1" bind:this={surface}>
        {#key `${capture}/${measurement.data.pictures}`}
          <CardViewer
            bind:this={viewer}
            {capture}
            version={measurement.data.pictures}
            scale={measurement.data.scale as { pixels_per_mm: number; width: number; height: number }}
            {layout}
            {showZones}
            {noteAt}
            selected={zoneId}
            view={fromAddress("view")}
            onview={(view) => toAddress("view", view)}
            onscale={(scale) => (pixelsPerMm = scale)}
            onselect={(id) => choose(id)}
            onpoint={(place) => probing.at(place)}
          />
        {/key}
      </div>
      <div class="bg-paper flex items-center justify-between">
        <Probe probe={probing.probe} note={probing.note} />
        {#if pixelsPerMm > 0 && sized}<div class="pr-4"><ScaleBar {pixelsPerMm} /></div>{/if}
      </div>
    </main>
    <aside
      aria-label="Margin notebook"
      class="border-hairline bg-margin min-h-0 overflow-y-auto border-l px-5 py-3"
      onscroll={tieNote}
    >
      {#if zone}
        <div bind:this={note}>
          <ZoneNote
            {zone}
            figures={document.zones[zone.id]}
            {sized}
            crop="/api/captures/{capture}/crops/{zone.id}?v={measurement.data.pictures}"
          />
        </div>
      {/if}
      {#each measurement.data.notes as sentence (sentence)}
        <p class="border-ink mb-2 border-l-4 pl-2 font-serif">△ {sentence}</p>
      {/each}
      {#if swatchId && document.swatches[swatchId]}
        <SwatchFigures
          swatch={swatchId}
          figures={document.swatches[swatchId]}
          paint={measurement.data.paints[swatchId]}
          {layout}
          selected={zoneId}
          onchoose={(id) => choose(id, true)}
        />
      {:else}
        <Calibration {document} algorithm={measurement.data.algorithm} versions={measurement.data.versions} />
      {/if}
      <h2 class="mt-4 mb-1">Swatches</h2>
      <ul class="divide-strip divide-y">
        {#each swatches as swatch (swatch.id)}
          <li>
            <button
              class="w-full py-1 text-left {swatch.id === swatchId ? 'font-semibold' : ''}"
              aria-pressed={swatch.id === swatchId}
              onclick={() =>
                choose(layout.zones.find((z) => z.swatch === swatch.id && z.kind === "masstone")?.id ?? null, true)}
            >
              <span class="text-faint mr-2">{swatch.id}</span><span class="font-serif underline"
                >{measurement.data.paints[swatch.id]?.name ?? swatch.label}</span
              >
              <span class="text-faint text-xs">{measurement.data.paints[swatch.id]?.maker ?? ""}</span>
            </button>
          </li>
        {/each}
      </ul>
    </aside>
  </div>
{/if}
