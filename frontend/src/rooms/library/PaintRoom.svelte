<script lang="ts">
  import type { SwatchFigures } from "../../lib/api/measurement";
  import { client, unwrap, type Paint } from "../../lib/api/client";
  import { libraryQuery, profileQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import HuePlane from "../../lib/charts/HuePlane.svelte";
  import LightnessChroma from "../../lib/charts/LightnessChroma.svelte";
  import ValueBar from "../../lib/charts/ValueBar.svelte";
  import { fillingScale } from "../../lib/charts/scales";
  import { figureRows, type FigureRow } from "../../lib/figures";
  import { unbroken } from "../../lib/format";
  import { fromAddress, route, toAddress } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import CropStrip from "../../lib/ui/CropStrip.svelte";
  import HistoryList from "../../lib/ui/HistoryList.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";
  import { wayInWords, wayOf } from "../../lib/way";
  import Evidence from "./Evidence.svelte";
  import { standing } from "./other-swatch";
  import type { PaintLabel } from "./paint-label";
  import PaintLabelForm from "./PaintLabelForm.svelte";

  const id = $derived(Number(route.getParams("/library/:paint").paint));
  const profile = profileQuery(() => id);
  const library = libraryQuery();
  const swatch = $derived(profile.data?.swatch ?? null);
  const figures = $derived(swatch?.figures as SwatchFigures | undefined);
  const rows = $derived(figures ? figureRows(figures) : []);
  const marked = $derived(fromAddress("figure"));
  const kinMakers = $derived(
    (library.data?.paints ?? [])
      .filter((p) => p.measured && p.id !== id && p.pigments.some((c) => profile.data?.paint.pigments.includes(c)))
      .slice(0, 5),
  );
  const kinds = $derived(swatch ? wayOf(swatch.crops) : []);
  let stripWidth = $state(0);
  const scale = $derived(
    fillingScale(
      kinds.map((kind) => swatch?.crops[kind]),
      stripWidth,
      9,
    ),
  );
  const attempt = new Attempt();
  let editing = $state(false);
  const pigments = $derived(new Map((library.data?.pigments ?? []).map((p) => [p.code, p])));

  async function tried(action: () => Promise<Paint>): Promise<boolean> {
    const done = await attempt.run(action, "profile", "library", "history", "bin");
    if (done) editing = false;
    return done;
  }
  const path = $derived({ params: { path: { paint_id: id } } });
  const change = (label: PaintLabel) =>
    tried(() =>
      unwrap(
        client.PUT("/api/paints/{paint_id}", { ...path, body: { revision: profile.data?.paint.revision ?? 0, label } }),
      ),
    );
  const undo = () => tried(() => unwrap(client.POST("/api/paints/{paint_id}/undo", path)));
  const redo = () => tried(() => unwrap(client.POST("/api/paints/{paint_id}/redo", path)));
  const putAway = () =>
    tried(() =>
      unwrap(
        profile.data?.paint.binned
          ? client.POST("/api/paints/{paint_id}/restore", path)
          : client.POST("/api/paints/{paint_id}/bin", path),
      ),
    );
  const claims = $derived(Object.entries(profile.data?.paint.claims ?? {}));
</script>

<!-- A figure stays on one line; what is said of it may go on to the next. -->
{#snippet said(row: FigureRow)}
  <span class="whitespace-nowrap">{row.text}</span>{row.note ? ` · ${row.note}` : ""}
{/snippet}

<Room
  title={profile.data?.paint.name ?? "Paint"}
  subtitle={profile.data
    ? `${profile.data.paint.maker} · ${profile.data.paint.pigments.join(" ")} · ${profile.data.paint.form}`
    : ""}
>
  {#snippet actions()}
    {#if profile.data}
      <Button onclick={() => void undo()} disabled={!profile.data.can_undo} title={profile.data.can_undo ?? ""}
        >Take back</Button
      >
      <Button onclick={() => void redo()} disabled={!profile.data.can_redo} title={profile.data.can_redo ?? ""}
        >Make again</Button
      >
      <Button onclick={() => void putAway()}>{profile.data.paint.binned ? "Out of the bin" : "Into the bin"}</Button>
      <Button onclick={() => (editing = !editing)}>{editing ? "Leave the label" : "Correct the label"}</Button>
      {#if kinMakers.length}
        <Button href="/compare?paints={[id, ...kinMakers.map((p) => p.id)].join(',')}">Beside its pigment kin</Button>
      {/if}
      {#if swatch}<Button href="/look/{swatch.capture}?zone={swatch.swatch}.masstone" primary
          >Look at it on the card</Button
        >{/if}
    {/if}
  {/snippet}
  {#snippet notebook()}
    {#if figures && swatch}
      <h2 class="mb-1">In words</h2>
      <ul class="space-y-1 font-serif text-base">
        {#each profile.data?.sentences ?? [] as sentence (sentence.text)}
          <li>
            <button
              class="text-left {marked === sentence.key ? 'underline decoration-2 underline-offset-4' : ''}"
              title="Mark the figure behind this"
              onclick={() => toAddress("figure", marked === sentence.key ? null : sentence.key)}
              >{unbroken(sentence.text)}</button
            >
          </li>
        {/each}
      </ul>
      <table class="mt-4 w-full" aria-label="Figures with standard uncertainties">
        <tbody>
          {#each rows as row (row.key)}
            {@const lit =
              marked !== null &&
              (row.key === marked ||
                (marked === "hue_shift" && row.key === "delta_h") ||
                (marked === "value_range" && row.key === "span_L") ||
                (marked === "hiding" && row.key === "veil") ||
                (marked === "lifting" && row.key === "removed"))}
            <tr class="border-strip border-t {lit ? 'bg-strip font-semibold' : ''}">
              <th scope="row" class="text-faint py-0.5 pr-2 text-left font-normal">{row.title}</th>
              <td class="py-0.5 text-right">
                {#if row.absent}<span
                    class="border-hairline inline-block max-w-40 border border-dashed px-1 text-left text-xs leading-4"
                    >{row.absent}</span
                  >
                {:else if swatch.crops[row.zone]}
                  <a
                    class="decoration-dotted"
                    href="/look/{swatch.capture}?zone={encodeURIComponent(swatch.crops[row.zone]?.zone ?? '')}"
                    title="Show the pixels that this came from">{@render said(row)}</a
                  >
                {:else}{@render said(row)}{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="text-faint mt-2 text-xs">
        ± is one standard uncertainty (k = 1). Absolute colour, D50, 2°. Tier of trust: <b class="font-semibold"
          >{swatch.tier}</b
        >. Card {swatch.card_id}, swatch {swatch.swatch}.
      </p>
    {/if}
    {#if claims.length}
      <h2 class="mt-4 mb-1">What the label claims</h2>
      <dl class="grid grid-cols-[7rem_1fr]">
        {#each claims as [what, claim] (what)}<dt class="text-faint">{what}</dt>
          <dd>{claim}</dd>{/each}
      </dl>
    {/if}
    {#if profile.data}
      {@const paint = profile.data.paint}
      <p class="mt-3 font-serif">
        {[
          paint.range && `${paint.range}${paint.place === null ? "" : `, number ${paint.place}`}`,
          paint.price && `${paint.price} ${paint.currency}${paint.size_ml ? ` for ${paint.size_ml} ml` : ""}`,
          paint.series && `series ${paint.series}`,
          paint.batch && `batch ${paint.batch}`,
          paint.hazards && `label warns: ${paint.hazards}`,
          paint.note,
        ]
          .filter(Boolean)
          .join("; ")}
      </p>
      {#if profile.data.others.length}
        <h2 class="mt-4 mb-1">Its other swatches</h2>
        <table class="w-full text-left" aria-label="Other swatches of this paint">
          <thead class="text-faint text-xs">
            <tr
              ><th class="font-normal">ΔE00 from the one above</th><th class="pl-3 text-right font-normal">masstone</th
              ><th class="pl-3 text-right font-normal">wash</th></tr
            >
          </thead>
          <tbody>
            {#each profile.data.others as other (`${other.capture}/${other.swatch}`)}
              <tr class="border-strip border-t align-top">
                <td>
                  <a href="/look/{other.capture}?zone={other.swatch}.masstone">{other.card_id} {other.swatch}</a>
                  <span class="text-faint block text-xs">
                    {swatch ? `capture ${other.capture}: ${standing(swatch, other)}` : ""}
                  </span>
                </td>
                <td class="pl-3 text-right">{other.masstone_de00?.toFixed(1) ?? "absent"}</td>
                <td class="pl-3 text-right">{other.wash_de00?.toFixed(1) ?? "absent"}</td>
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
      <HistoryList of={{ paint: id }} />
    {/if}
  {/snippet}
  {#if profile.error}<Notice kind="problem">{profile.error.message}</Notice>{/if}
  {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
  {#if profile.data?.paint.binned}<Notice>This paint lies in the bin; nothing of it was erased.</Notice>{/if}
  {#if editing && profile.data}
    <div class="bg-paper mb-3 p-4">
      <PaintLabelForm {pigments} paint={profile.data.paint} submit="Keep the label" onsubmit={change} />
    </div>
  {/if}
  {#if figures && swatch}
    <div class="bg-paper p-4">
      <div bind:clientWidth={stripWidth}><CropStrip {swatch} {kinds} pixelsPerMm={scale} heightMm={15} /></div>
      <div class="mt-1 flex items-end justify-between">
        <ScaleBar pixelsPerMm={scale} />
        <p class="text-faint text-xs">
          {wayInWords(swatch.crops)}: as captured{figures.gradient_ends_at === null
            ? ""
            : `; the palest paint has a depth of ${figures.gradient_ends_at.toFixed(2)}, paler is interpolated`}
        </p>
      </div>
    </div>
    <div class="bg-paper mt-3 flex flex-wrap gap-4 p-4">
      <figure>
        <HuePlane {figures} size={300} />
        <figcaption class="text-faint text-xs">Path in the a* b* plane; the heavy arc is the hue shift</figcaption>
      </figure>
      <figure>
        <LightnessChroma {figures} width={400} height={300} />
        <figcaption class="text-faint text-xs">Lightness against chroma; whiskers are k = 2</figcaption>
      </figure>
      <p class="text-faint self-end text-xs leading-5">
        ● masstone<br /><span class="text-hairline">●</span> half tint<br />○ wash
      </p>
      <figure class="w-full">
        <ValueBar {figures} width={840} />
      </figure>
    </div>
    <Evidence {swatch} {figures} sentences={profile.data?.sentences ?? []} />
  {:else if profile.data}
    <div class="bg-paper max-w-prose p-6">
      <h2 class="mb-2">Not measured yet</h2>
      <p class="mb-4 font-serif">
        Its path, hue shift, value range and grain will lie here once a card that holds it has been captured.
      </p>
      <Button href="/ask" primary>Plan a card with it</Button>
    </div>
  {/if}
</Room>
