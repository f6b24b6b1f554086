<script lang="ts">
  import type { Snippet } from "svelte";
  import type { Swatch } from "../../lib/api/client";
  import type { SwatchFigures } from "../../lib/api/measurement";
  import { componentText } from "./component-text";
  import Curves from "../../lib/charts/Curves.svelte";
  import { unbroken } from "../../lib/format";
  import ScaleBar from "../../lib/ui/ScaleBar.svelte";
  import CropStrip from "../../lib/ui/CropStrip.svelte";
  import MovingLamp from "./MovingLamp.svelte";

  interface Props {
    swatch: Swatch;
    figures: SwatchFigures;
    sentences: { key: string; text: string }[];
  }
  let { swatch, figures, sentences }: Props = $props();
  // The pictures are made at 24 pixels a millimetre, 288 across, and shown so that three lie side by side.
  const PIXELS_PER_MM = (24 * 272) / 288;
  const said = (...keys: string[]): string =>
    sentences
      .filter((s) => keys.includes(s.key))
      .map((s) => unbroken(s.text))
      .join(" ");
  const view = (name: string): string | undefined => swatch.views[name];
  const under = (place: string): { side: string; url: string }[] =>
    Object.entries(swatch.views)
      .filter(([name]) => name.startsWith(place))
      .map(([name, url]) => ({ side: name.slice(place.length), url }));
  const lights = $derived(under("light-"));
  const onBlack = $derived(under("black-"));
  const layers = $derived(
    Object.keys(swatch.crops)
      .filter((kind) => kind.split(":")[0] === "glaze")
      .sort(),
  );
  const effects = $derived(
    Object.keys(swatch.crops)
      .filter((kind) => kind.split(":")[0] === "effect")
      .sort(),
  );
  const has = (...kinds: string[]): boolean => kinds.every((kind) => swatch.crops[kind]);
  const grain = $derived(figures.granulation);
</script>

{#snippet picture(name: string, alt: string, caption: string, bar = false)}
  {#if view(name)}
    <figure class="w-[272px]">
      <img src={view(name)} {alt} class="block w-[272px]" />
      {#if bar}<div class="mt-1"><ScaleBar pixelsPerMm={PIXELS_PER_MM} /></div>{/if}
      <figcaption class="text-faint text-xs">{caption}</figcaption>
    </figure>
  {/if}
{/snippet}

{#snippet plate(title: string, words: string, body: Snippet)}
  <section class="bg-paper p-4" aria-label={title}>
    <h2 class="mb-2">{title}</h2>
    <div class="flex flex-wrap items-start gap-4">{@render body()}</div>
    {#if words}<p class="mt-2 max-w-prose font-serif text-lg leading-snug">{words}</p>{/if}
  </section>
{/snippet}

{#snippet grainBody()}
  {@render picture("plain", "The wash, magnified", "the wash, magnified", true)}
  {@render picture("grain", "The same, contrast stretched", "the same, contrast stretched to fill")}
  <div class="space-y-2">
    {#if grain.spectrum?.length}
      <Curves
        across="cycles per mm"
        up="L* in the wash; dashed, the bare paper"
        curves={[
          { name: "wash", points: grain.spectrum.map((s) => [s.frequency, s.wash] as const) },
          { name: "bare paper", points: grain.spectrum.map((s) => [s.frequency, s.paper] as const) },
        ]}
      />
    {/if}
    {#if (grain.by_depth?.length ?? 0) > 1}
      <Curves
        across="tint depth"
        up="granulation, L*, from light to heavy"
        height={110}
        curves={[
          { name: "granulation", points: [...grain.by_depth!].reverse().map((g) => [g.depth, g.index] as const) },
        ]}
      />
    {/if}
  </div>
{/snippet}

{#snippet separationBody()}
  {@render picture(
    "separation",
    "Where the colour leaves the path",
    "grey: on its path; coloured: where it departs",
    true,
  )}
  {@render picture("component-1", "The first component alone", `one component alone: ${componentText(figures, 0)}`)}
  {@render picture("component-2", "The second component alone", `the other alone: ${componentText(figures, 1)}`)}
{/snippet}

{#snippet lampBody()}
  <MovingLamp {lights} pixelsPerMm={PIXELS_PER_MM} />
{/snippet}

{#snippet blackBody()}
  {#if onBlack.length > 1}
    <MovingLamp lights={onBlack} pixelsPerMm={PIXELS_PER_MM} />
  {:else}
    {@render strip(["black_paper"], 10, 14)}
  {/if}
{/snippet}

{#snippet strip(kinds: string[], pixelsPerMm: number, heightMm: number)}
  <div>
    <CropStrip {swatch} {kinds} {pixelsPerMm} {heightMm} />
    <div class="mt-1"><ScaleBar {pixelsPerMm} /></div>
  </div>
{/snippet}

{#snippet hidingBody()}{@render strip(["ink", "over_ink", "beside_ink"], 10, 14)}{/snippet}
{#snippet liftingBody()}{@render strip(["unlifted", "lifted"], 10, 14)}{/snippet}
{#snippet layersBody()}{@render strip(layers, 8, 14)}{/snippet}
{#snippet tiltBody()}{@render strip(["tilt"], 10, 14)}{/snippet}
{#snippet effectsBody()}{@render strip(effects, 8, 14)}{/snippet}
{#snippet dropsBody()}
  {@render strip(["wet_drop", "water_drop"], 10, 14)}
  {#if figures.wet_drop?.profile.length}
    <Curves
      across="mm from where the brush touched"
      up="tint depth"
      curves={[
        { name: "drop of paint", points: figures.wet_drop.profile.map((p) => [p.distance_mm, p.depth] as const) },
      ]}
    />
  {/if}
  {#if figures.water_drop?.profile.length}
    <Curves
      across="mm from the drop's middle"
      up="tint depth"
      curves={[
        { name: "drop of water", points: figures.water_drop.profile.map((p) => [p.distance_mm, p.depth] as const) },
      ]}
    />
  {/if}
{/snippet}

<div class="mt-3 space-y-3">
  {#if view("grain")}{@render plate("Grain", said("granulation"), grainBody)}{/if}
  {#if view("separation")}{@render plate("Separation", said("separation"), separationBody)}{/if}
  {#if lights.length > 1}{@render plate("Under a low lamp", said("sparkle", "sheen"), lampBody)}{/if}
  <div class="grid grid-cols-1 gap-3 lg:grid-cols-2">
    {#if has("black_paper")}{@render plate("On black paper", said("on_black"), blackBody)}{/if}
    {#if has("over_ink", "beside_ink")}{@render plate("Over the line, and beside it", said("hiding"), hidingBody)}{/if}
    {#if has("unlifted", "lifted")}{@render plate("Left, and lifted", said("lifting"), liftingBody)}{/if}
    {#if layers.length}{@render plate("Layers", said("glaze"), layersBody)}{/if}
    {#if has("tilt")}{@render plate("Tilted", said("tilt"), tiltBody)}{/if}
    {#if effects.length}{@render plate("Effects", said("effects"), effectsBody)}{/if}
  </div>
  {#if has("wet_drop") || has("water_drop")}{@render plate("Drops", said("wet_drop", "water_drop"), dropsBody)}{/if}
</div>
