<script lang="ts">
  import type { Library, Paint } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";
  import NewPaint from "./NewPaint.svelte";
  import { matches, type PlanDraft } from "./plan.svelte";

  interface Props {
    draft: PlanDraft;
    library: Library;
    fixed?: boolean;
  }
  let { draft, library, fixed = false }: Props = $props();
  let words = $state("");
  let adding = $state(false);
  const pigments = $derived(new Map(library.pigments.map((p) => [p.code, p])));
  const found = $derived(library.paints.filter((p) => matches(p, words, pigments)));
  const byId = $derived(new Map(library.paints.map((p) => [p.id, p])));

  function title(paint: Paint | undefined): string {
    return paint ? `${paint.name} · ${paint.maker}` : "a paint no longer in the library";
  }

  function reorder(event: KeyboardEvent, index: number): void {
    if (!event.altKey || fixed || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    draft.move(index, event.key === "ArrowUp" ? -1 : 1);
  }
</script>

<div class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-6">
  <section class="bg-paper space-y-3 p-5" aria-label="Question">
    <label class="block">
      <span class="text-faint text-xs">Name of the session</span>
      <input type="text" bind:value={draft.name} maxlength="160" />
    </label>
    <div>
      <span class="text-faint text-xs">Question</span>
      <Choice
        label="Question"
        bind:value={draft.question}
        options={library.questions.map((q) => ({ value: q.id, label: q.text }))}
      />
    </div>
    <div class="grid grid-cols-2 gap-3">
      <div>
        <span class="text-faint text-xs">Paper</span>
        <Choice
          label="Paper"
          bind:value={draft.paper}
          options={[
            { value: "", label: "not said" },
            ...library.papers.map((p) => ({ value: String(p.id), label: p.name })),
          ]}
        />
      </div>
      <div>
        <span class="text-faint text-xs">Sheet</span>
        <Choice label="Sheet" bind:value={draft.sheet} options={library.sheets.map((s) => ({ value: s, label: s }))} />
      </div>
    </div>
    <label class="block">
      <span class="text-faint text-xs">Note</span>
      <textarea rows="2" bind:value={draft.note}></textarea>
    </label>
    <h2 class="pt-2">On the card, in this order</h2>
    {#if draft.paints.length === 0}
      <p class="border-hairline text-faint border border-dashed p-3">
        Choose paints on the right; they lie here in their order.
      </p>
    {/if}
    <ol class="divide-strip divide-y">
      {#each draft.paints as id, index (id)}
        <li class="flex items-center gap-2 py-1">
          <span class="text-faint w-5 text-right">{index + 1}</span>
          <button
            class="flex-1 text-left font-serif"
            onkeydown={(e) => reorder(e, index)}
            title="Alt with ↑ or ↓ moves it"
          >
            {title(byId.get(id))}
          </button>
          {#if !fixed}
            <button
              class="border-hairline border px-2"
              aria-label="Move {title(byId.get(id))} up"
              disabled={index === 0}
              onclick={() => draft.move(index, -1)}>↑</button
            >
            <button
              class="border-hairline border px-2"
              aria-label="Move {title(byId.get(id))} down"
              disabled={index === draft.paints.length - 1}
              onclick={() => draft.move(index, 1)}>↓</button
            >
            <button
              class="border-hairline border px-2"
              aria-label="Take {title(byId.get(id))} off"
              onclick={() => draft.toggle(id)}>×</button
            >
          {/if}
        </li>
      {/each}
    </ol>
  </section>
  <section class="bg-paper flex flex-col p-5" aria-label="Paints">
    <label class="block">
      <span class="text-faint text-xs">Find by name, maker, pigment code, pigment or hue</span>
      <input type="text" bind:value={words} placeholder="PB29" />
    </label>
    <ul class="divide-strip mt-2 max-h-[23rem] flex-1 divide-y overflow-y-auto">
      {#each found as paint (paint.id)}
        <li>
          <label class="flex items-baseline gap-3 py-1.5">
            <input
              type="checkbox"
              checked={draft.paints.includes(paint.id)}
              disabled={fixed}
              onchange={() => draft.toggle(paint.id)}
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
    </ul>
    <button class="mt-3 self-start underline" onclick={() => (adding = !adding)} aria-expanded={adding}>
      {adding ? "Leave the library as it is" : "Add a paint to the library"}
    </button>
    <a href="/ask/spreadsheet" class="mt-1 self-start">Bring in a spreadsheet of paints</a>
    {#if adding}
      <NewPaint
        {pigments}
        onadded={(paint) => {
          adding = false;
          if (!fixed) draft.toggle(paint.id);
        }}
      />
    {/if}
  </section>
</div>
