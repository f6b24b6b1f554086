<script lang="ts">
  import { client, unwrap, type Library, type Paint } from "../../lib/api/client";
  import { Attempt } from "../../lib/attempt.svelte";
  import { navigate } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import { matches } from "../ask/plan.svelte";
  import NewPaint from "./NewPaint.svelte";
  import { readLab } from "./read-lab";

  interface Props {
    library: Library;
  }
  let { library }: Props = $props();
  const attempt = new Attempt();
  let words = $state("");
  let colour = $state("");
  let near = $state<Map<number, number> | null>(null);
  let adding = $state(false);
  const pigments = $derived(new Map(library.pigments.map((p) => [p.code, p])));
  const found = $derived.by(() => {
    const paints = library.paints.filter((p) => matches(p, words, pigments));
    const by = near;
    return by ? paints.filter((p) => by.has(p.id)).sort((a, b) => (by.get(a.id) ?? 0) - (by.get(b.id) ?? 0)) : paints;
  });
  const price = (paint: Paint) =>
    paint.price ? `${paint.price} ${paint.currency}${paint.size_ml ? ` for ${paint.size_ml} ml` : ""}` : "";

  function lookUp(event: SubmitEvent): void {
    event.preventDefault();
    if (colour.trim() === "") near = null;
    else
      void attempt.run(async () => {
        const [lightness, a, b] = readLab(colour);
        const hits = await unwrap(client.GET("/api/paints/near", { params: { query: { lightness, a, b } } }));
        near = new Map(hits.map((hit) => [hit.paint, hit.de00]));
      });
  }
</script>

{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
<div class="mb-2 flex items-end gap-3">
  <label class="w-96">
    <span class="text-faint text-xs">Find by name, maker, pigment code, pigment or hue</span>
    <input type="text" bind:value={words} placeholder="PB29" />
  </label>
  <form class="flex items-end gap-2" onsubmit={lookUp}>
    <label class="w-56">
      <span class="text-faint text-xs">or nearest to a measured L* a* b*</span>
      <input type="text" bind:value={colour} placeholder="30 20 -50" />
    </label>
    <Button type="submit">Look up</Button>
  </form>
  <Button onclick={() => (adding = !adding)}>{adding ? "Leave it" : "Add a paint"}</Button>
</div>
{#if adding}
  <div class="bg-paper mb-3 max-w-3xl p-4">
    <NewPaint
      {pigments}
      onadded={(paint) => {
        adding = false;
        void navigate("/library/:paint", { params: { paint: String(paint.id) } });
      }}
    />
  </div>
{/if}
<ul class="grid grid-cols-3 gap-px xl:grid-cols-4" aria-label="Paints">
  {#each found as paint (paint.id)}
    <li class="bg-paper">
      <a href="/library/{paint.id}" class="block h-full no-underline">
        {#if paint.measured}
          <img
            src="/api/paints/{paint.id}/strip"
            alt="Gradient of {paint.name}, as captured"
            class="block h-14 w-full object-cover"
            loading="lazy"
          />
        {:else}
          <span class="text-faint border-strip grid h-14 place-items-center border-b text-xs">not measured yet</span>
        {/if}
        <span class="block px-3 py-2 leading-tight">
          <span class="font-serif text-base">{paint.name}</span>
          {#if near}<span class="float-right">{near.get(paint.id)?.toFixed(1)} ΔE00</span>{/if}<br />
          <span class="text-faint text-xs">
            {paint.maker}{paint.range ? ` · ${paint.range}` : ""} · {paint.pigments.join(" ")} · {paint.form}
            {price(paint) ? `· ${price(paint)}` : ""}{paint.owned ? "" : " · not here"}
          </span>
        </span>
      </a>
    </li>
  {:else}
    <li class="bg-paper col-span-3 p-6 font-serif">
      {library.paints.length === 0
        ? "No paint is here yet. Add the first one, or bring in a spreadsheet that you have."
        : "No paint answers to that."}
    </li>
  {/each}
</ul>
