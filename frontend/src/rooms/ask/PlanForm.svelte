<script lang="ts">
  import type { Library, Preview } from "../../lib/api/client";
  import NewPaint from "../library/NewPaint.svelte";
  import ChosenPaints from "./ChosenPaints.svelte";
  import Particulars from "./Particulars.svelte";
  import { matches, type PlanDraft, type Target } from "./plan.svelte";
  import Starting from "./Starting.svelte";

  interface Props {
    draft: PlanDraft;
    library: Library;
    preview: Preview | undefined;
    fixed?: boolean;
    starting?: boolean;
    onproblem?: (sentence: string) => void;
  }
  let { draft, library, preview, fixed = false, starting = false, onproblem = () => undefined }: Props = $props();
  // More rows than this only slow every key down; words find the rest.
  const SHOWN = 120;
  let words = $state("");
  let adding = $state(false);
  let into = $state<Target>("paints");
  const question = $derived(library.questions.find((q) => q.id === draft.question));
  const mixing = $derived(question?.layout === "mixes");
  const target = $derived<Target>(mixing ? into : "paints");
  const pigments = $derived(new Map(library.pigments.map((p) => [p.code, p])));
  const found = $derived(library.paints.filter((p) => matches(p, words, pigments)));
  const byId = $derived(new Map(library.paints.map((p) => [p.id, p])));
  const missing = $derived(found.filter((p) => !draft[target].includes(p.id)));
</script>

<div class="grid grid-cols-2 gap-4">
  <section class="bg-paper space-y-3 p-4" aria-label="Plan">
    {#if starting && question}<Starting {draft} {library} {question} {onproblem} />{/if}
    <Particulars {draft} {library} {question} {fixed} />
  </section>
  <section class="bg-paper flex flex-col gap-2 p-4" aria-label="Paints">
    <ChosenPaints
      {draft}
      list="paints"
      title={mixing ? "Down the side" : "On the cards, in this order"}
      empty="Choose paints below; they lie here in their order."
      paints={byId}
      order={preview?.paints ?? []}
      {fixed}
    />
    {#if mixing}
      <ChosenPaints
        {draft}
        list="partners"
        title="Along the head"
        empty="Choose partners below."
        paints={byId}
        order={preview?.partners ?? []}
        {fixed}
      />
      <fieldset class="flex gap-4">
        <legend class="sr-only">Where a chosen paint goes</legend>
        <label class="flex items-baseline gap-2"
          ><input type="radio" bind:group={into} value="paints" /> to the side</label
        >
        <label class="flex items-baseline gap-2"
          ><input type="radio" bind:group={into} value="partners" /> to the head</label
        >
      </fieldset>
    {/if}
    <label class="block">
      <span class="text-faint text-xs">Find by name, maker, pigment code, pigment or hue</span>
      <input type="text" bind:value={words} placeholder="PB29" />
    </label>
    <ul class="divide-strip max-h-60 flex-1 divide-y overflow-y-auto" aria-label="Library">
      {#each found.slice(0, SHOWN) as paint (paint.id)}
        <li>
          <label class="flex items-baseline gap-3 py-1">
            <input
              type="checkbox"
              checked={draft[target].includes(paint.id)}
              disabled={fixed}
              onchange={() => {
                draft.toggle(paint.id, target);
              }}
            />
            <span class="flex-1"
              ><span class="font-serif">{paint.name}</span> <span class="text-faint">{paint.maker}</span></span
            >
            <span class="text-faint text-xs">{paint.pigments.join(" ")} · {paint.form}</span>
          </label>
        </li>
      {:else}
        <li class="text-faint py-3">
          {library.paints.length === 0
            ? "The library is empty: add the first paint below."
            : "No paint answers to that."}
        </li>
      {/each}
      {#if found.length > SHOWN}
        <li class="text-faint py-2">and {found.length - SHOWN} more; a word above narrows them down</li>
      {/if}
    </ul>
    <div class="flex flex-wrap gap-x-4">
      {#if missing.length > 1 && !fixed}
        <button class="underline" onclick={() => (draft[target] = [...draft[target], ...missing.map((p) => p.id)])}
          >Take all {missing.length}</button
        >
      {/if}
      <button class="underline" onclick={() => (adding = !adding)} aria-expanded={adding}>
        {adding ? "Leave the library as it is" : "Add a paint to the library"}
      </button>
      <a href="/library/spreadsheet">Bring in a spreadsheet of paints</a>
    </div>
    {#if adding}
      <NewPaint
        {pigments}
        onadded={(paint) => {
          adding = false;
          if (!fixed) draft.toggle(paint.id, target);
        }}
      />
    {/if}
  </section>
</div>
