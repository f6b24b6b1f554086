<script lang="ts">
  import type { SwatchFigures } from "../../lib/api/measurement";
  import { comparisonQuery, libraryQuery } from "../../lib/api/queries";
  import { fillingScale } from "../../lib/charts/scales";
  import { figureRows } from "../../lib/figures";
  import { fromAddress, toAddress } from "../../lib/router";
  import Choice from "../../lib/ui/Choice.svelte";
  import CropStrip from "../../lib/ui/CropStrip.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";
  import { wayInWords, wayOf } from "../../lib/way";
  import { orders, pairOf, sorted } from "./compare";
  import PairNote from "./PairNote.svelte";

  const most = 6;
  const paints = $derived(fromAddress("paints") ?? "");
  const chosen = $derived(paints.split(",").filter(Boolean).map(Number));
  const comparison = comparisonQuery(() => paints);
  const library = libraryQuery();
  const order = $derived(fromAddress("by") ?? "chosen");
  const ground = $derived(fromAddress("ground") ?? "light");
  const rows = $derived(sorted(comparison.data?.swatches ?? [], order));
  const measured = $derived((library.data?.paints ?? []).filter((p) => p.measured));
  const pairIds = $derived.by((): [number, number] | null => {
    const wanted = (fromAddress("pair") ?? "").split(",").map(Number);
    const here = rows.map((r) => r.paint.id);
    const [a, b] = wanted.length === 2 && wanted.every((id) => here.includes(id)) ? wanted : here;
    return a !== undefined && b !== undefined && a !== b ? [a, b] : null;
  });
  const pair = $derived(pairIds && comparison.data ? pairOf(comparison.data.pairs, ...pairIds) : undefined);
  let groundWidth = $state(0);
  const namesWidth = 176;
  const pixelsPerMm = $derived(
    Math.min(
      7,
      ...rows.map((r) =>
        fillingScale(
          wayOf(r.crops).map((kind) => r.crops[kind]),
          groundWidth - namesWidth,
          7,
        ),
      ),
    ),
  );
  const figureKeys = ["delta_h", "span_L", "granulation", "veil", "removed"];

  function choose(ids: number[]): void {
    toAddress("paints", ids.join(","));
  }
  function pick(id: number): void {
    if (!pairIds) return;
    toAddress("pair", pairIds[0] === id || pairIds[1] === id ? `${pairIds[1]},${pairIds[0]}` : `${pairIds[0]},${id}`);
  }
  const figure = (figures: unknown, key: string) => figureRows(figures as SwatchFigures).find((r) => r.key === key);
</script>

<Room title="Compare" subtitle="Two to six paints, edge to edge on neutral ground.">
  {#snippet actions()}
    <div class="w-52">
      <Choice
        label="Sort by"
        value={order}
        options={[...orders]}
        onchange={(by) => toAddress("by", by === "chosen" ? null : by)}
      />
    </div>
    <div class="w-36">
      <Choice
        label="Ground"
        value={ground}
        options={[
          { value: "light", label: "light grey" },
          { value: "dark", label: "dark grey" },
          { value: "white", label: "paper white" },
        ]}
        onchange={(g) => toAddress("ground", g === "light" ? null : g)}
      />
    </div>
  {/snippet}
  {#snippet notebook()}
    {#if pair && comparison.data}
      <PairNote {pair} swatches={comparison.data.swatches} />
    {:else}
      <p class="font-serif">Choose two paints or more: the differences will stand here, in words and in figures.</p>
    {/if}
    <h2 class="mt-5 mb-1">Measured paints</h2>
    <ul class="divide-strip max-h-72 divide-y overflow-y-auto">
      {#each measured as paint (paint.id)}
        <li>
          <label class="flex items-baseline gap-2 py-1">
            <input
              type="checkbox"
              checked={chosen.includes(paint.id)}
              disabled={!chosen.includes(paint.id) && chosen.length >= most}
              onchange={() =>
                choose(chosen.includes(paint.id) ? chosen.filter((c) => c !== paint.id) : [...chosen, paint.id])}
            />
            <span class="flex-1 font-serif">{paint.name}</span><span class="text-faint text-xs">{paint.maker}</span>
          </label>
        </li>
      {:else}
        {#if library.data}<li class="text-faint py-1">None yet. Capture a card first.</li>{/if}
      {/each}
    </ul>
  {/snippet}
  {#if comparison.error}<Notice kind="problem">{comparison.error.message}</Notice>{/if}
  {#if comparison.data?.missing.length}
    <Notice>Not measured yet: {comparison.data.missing.map((p) => p.name).join(", ")}.</Notice>
  {/if}
  {#if rows.length}
    <div
      class="p-4 {ground === 'dark' ? 'bg-[#3a3a3a] text-white' : ground === 'white' ? 'bg-paper' : 'bg-strip'}"
      data-testid="ground"
    >
      <ol bind:clientWidth={groundWidth}>
        {#each rows as swatch (swatch.paint.id)}
          <li class="flex items-stretch">
            <button
              class="w-44 shrink-0 border-l-4 px-2 text-left leading-tight {pairIds?.includes(swatch.paint.id)
                ? 'border-current'
                : 'border-transparent'}"
              aria-pressed={pairIds?.includes(swatch.paint.id)}
              title="Choose it for the differences in the notebook"
              onclick={() => pick(swatch.paint.id)}
            >
              <span class="block font-serif">{swatch.paint.name}</span>
              <span class="block text-xs opacity-80">{swatch.paint.maker}</span>
              <span class="block text-xs opacity-80">{swatch.paint.pigments.join(" ")}</span>
            </button>
            <CropStrip
              {swatch}
              kinds={wayOf(swatch.crops)}
              {pixelsPerMm}
              heightMm={Math.min(14, 330 / rows.length / pixelsPerMm)}
            />
          </li>
        {/each}
      </ol>
      <div class="mt-2 flex items-end justify-between gap-4 pl-44">
        <ScaleBar {pixelsPerMm} />
        <p class="text-xs opacity-80">
          {[...new Set(rows.map((r) => wayInWords(r.crops)))].join("; ")}: as captured. Choose two names for their
          differences.
        </p>
      </div>
    </div>
    <table class="bg-paper mt-3 w-full text-right" aria-label="Figures side by side">
      <thead class="text-faint text-xs">
        <tr>
          <th class="px-2 py-1 text-left font-normal">paint</th>
          <th class="px-2 py-1 font-normal">masstone L* a* b*, absolute</th>
          {#each figureKeys as key (key)}<th class="px-2 py-1 font-normal"
              >{rows[0] ? figure(rows[0].figures, key)?.title : ""}</th
            >{/each}
          <th class="px-2 py-1 font-normal">tier</th>
        </tr>
      </thead>
      <tbody>
        {#each rows as swatch (swatch.paint.id)}
          <tr class="border-strip border-t">
            <th scope="row" class="px-2 py-1 text-left font-normal"
              ><a href="/library/{swatch.paint.id}" class="font-serif">{swatch.paint.name}</a><span
                class="text-faint block text-xs">{swatch.paint.maker}</span
              ></th
            >
            <td class="px-2 py-1 whitespace-nowrap">{figure(swatch.figures, "masstone")?.text}</td>
            {#each figureKeys as key (key)}
              {@const row = figure(swatch.figures, key)}
              <td class="px-2 py-1 {row?.absent ? 'text-faint min-w-24 text-xs' : 'whitespace-nowrap'}"
                >{row?.absent ?? row?.text}</td
              >
            {/each}
            <td class="text-faint px-2 py-1">{swatch.tier}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {:else if chosen.length === 0 || comparison.data}
    <div class="bg-paper max-w-prose p-6">
      <h2 class="mb-2">Nothing lies side by side yet</h2>
      <p class="font-serif">
        Choose two to six measured paints in the notebook. They will lie here edge to edge, each from its masstone to
        its wash, all at one scale.
      </p>
    </div>
  {/if}
</Room>
