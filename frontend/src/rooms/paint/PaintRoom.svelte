<script lang="ts">
  import type { SwatchFigures } from "../../lib/api/measurement";
  import { libraryQuery, profileQuery } from "../../lib/api/queries";
  import HuePlane from "../../lib/charts/HuePlane.svelte";
  import LightnessChroma from "../../lib/charts/LightnessChroma.svelte";
  import ValueBar from "../../lib/charts/ValueBar.svelte";
  import { figureRows, figureText, fillingScale } from "../../lib/figures";
  import { fromAddress, route, toAddress } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import CropStrip from "../../lib/ui/CropStrip.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";

  const id = $derived(Number(route.getParams("/paint/:paint").paint));
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
  const kinds = ["masstone", "gradient", "wash"];
  let stripWidth = $state(0);
  const scale = $derived(
    fillingScale(
      kinds.map((kind) => swatch?.crops[kind]),
      stripWidth,
      9,
    ),
  );
  const claims = $derived(Object.entries(profile.data?.paint.claims ?? {}));
</script>

<Room
  title={profile.data?.paint.name ?? "Paint"}
  subtitle={profile.data
    ? `${profile.data.paint.maker} · ${profile.data.paint.pigments.join(" ")} · ${profile.data.paint.form}`
    : ""}
>
  {#snippet actions()}
    {#if kinMakers.length}
      <Button href="/compare?paints={[id, ...kinMakers.map((p) => p.id)].join(',')}">Beside its pigment kin</Button>
    {/if}
    {#if swatch}<Button href="/look/{swatch.capture}?zone={swatch.swatch}.masstone" primary
        >Look at it on the card</Button
      >{/if}
  {/snippet}
  {#snippet notebook()}
    {#if figures && swatch}
      <h2 class="mb-1">In words</h2>
      <ul class="space-y-1 font-serif text-base">
        {#each profile.data?.sentences ?? [] as sentence (sentence.key)}
          <li>
            <button
              class="text-left {marked === sentence.key ? 'underline decoration-2 underline-offset-4' : ''}"
              title="Mark the figure behind this"
              onclick={() => toAddress("figure", marked === sentence.key ? null : sentence.key)}>{sentence.text}</button
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
                {#if row.absent}<span class="border-hairline border border-dashed px-1 text-xs">{row.absent}</span>
                {:else if swatch.crops[row.zone]}
                  <a
                    class="decoration-dotted"
                    href="/look/{swatch.capture}?zone={encodeURIComponent(swatch.crops[row.zone]?.zone ?? '')}"
                    title="Show the pixels that this came from">{figureText(row)}</a
                  >
                {:else}{figureText(row)}{/if}
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
      {#if claims.length}
        <h2 class="mt-4 mb-1">What the label claims</h2>
        <dl class="grid grid-cols-[7rem_1fr]">
          {#each claims as [what, claim] (what)}<dt class="text-faint">{what}</dt>
            <dd>{claim}</dd>{/each}
        </dl>
      {/if}
      {#if profile.data?.paint.note}<p class="mt-3 font-serif">{profile.data.paint.note}</p>{/if}
    {/if}
  {/snippet}
  {#if profile.error}<Notice kind="problem">{profile.error.message}</Notice>{/if}
  {#if figures && swatch}
    <div class="bg-paper p-4">
      <div bind:clientWidth={stripWidth}><CropStrip {swatch} {kinds} pixelsPerMm={scale} heightMm={15} /></div>
      <div class="mt-1 flex items-end justify-between">
        <ScaleBar pixelsPerMm={scale} />
        <p class="text-faint text-xs">
          masstone, drawn out, wash: as captured{figures.gradient_ends_at === null
            ? ""
            : `; the gradient ends at depth ${figures.gradient_ends_at.toFixed(2)}, paler is interpolated`}
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
