<script lang="ts">
  import type { Library, Question } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";
  import NamedChoice from "../../lib/ui/NamedChoice.svelte";
  import type { PlanDraft } from "./plan.svelte";

  interface Props {
    draft: PlanDraft;
    library: Library;
    question: Question | undefined;
    fixed?: boolean;
  }
  let { draft, library, question, fixed = false }: Props = $props();
  const own = $derived(!library.sheets.includes(draft.sheet));
  const mixing = $derived(question?.layout === "mixes");
  const stepped = $derived(draft.application === "steps" || draft.tests.includes("dilution"));
  // Makers share names, so that a name alone does not say which paint.
  const paintName = (id: number) => {
    const paint = library.paints.find((p) => p.id === id);
    return paint ? `${paint.name} · ${paint.maker}` : "a paint";
  };
  const titles: Record<string, string> = {
    woken: "Paint",
    wetness: "Laid",
    mixing: "Mixed",
    side: "Side of the paper",
  };

  function toggled<T>(list: readonly T[], item: T): T[] {
    return list.includes(item) ? list.filter((i) => i !== item) : [...list, item];
  }
  const options = (values: { id: string; text: string }[]) => values.map((v) => ({ value: v.id, label: v.text }));
</script>

<label class="block">
  <span class="text-faint text-xs">Name of the session</span>
  <input type="text" bind:value={draft.name} maxlength="160" />
</label>
{#if question?.several_papers}
  <fieldset>
    <legend class="text-faint text-xs">Papers to compare; each gets its own cards</legend>
    {#each library.papers as paper (paper.id)}
      <label class="flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={draft.papers.includes(paper.id)}
          disabled={fixed}
          onchange={() => (draft.papers = toggled(draft.papers, paper.id))}
        />
        {paper.name}
      </label>
    {:else}
      <p>No paper is in the <a href="/library?show=papers">library</a> yet.</p>
    {/each}
  </fieldset>
{/if}
<div class="grid grid-cols-2 gap-3">
  {#if !question?.several_papers}
    <NamedChoice
      label="Paper"
      bind:value={draft.paper}
      options={[
        { value: "", label: "not said" },
        ...library.papers.map((p) => ({ value: String(p.id), label: p.name })),
      ]}
    />
  {/if}
  <div>
    <NamedChoice
      label="Sheet"
      value={own ? "own" : draft.sheet}
      options={[...library.sheets.map((s) => ({ value: s, label: s })), { value: "own", label: "own size" }]}
      onchange={(value) => (draft.sheet = value === "own" ? "200x150" : value)}
    />
    {#if own}
      <label class="mt-1 block">
        <span class="text-faint text-xs">Width × height, mm</span>
        <input type="text" bind:value={draft.sheet} />
      </label>
    {/if}
  </div>
  <NamedChoice label="Order" bind:value={draft.arrangement} options={options(library.arrangements)} />
  {#if !mixing}
    <NamedChoice label="Masstone to wash by" bind:value={draft.application} options={options(library.applications)} />
  {/if}
  <label>
    <span class="text-faint text-xs">Each paint laid … times</span>
    <input type="number" min="1" max="10" bind:value={draft.replicates} disabled={fixed} />
  </label>
</div>
{#if !mixing}
  <fieldset class="flex flex-wrap gap-x-4">
    <legend class="text-faint text-xs">Tests</legend>
    {#each library.tests as test (test.id)}
      <label class="flex items-baseline gap-2">
        <input
          type="checkbox"
          checked={draft.tests.includes(test.id)}
          disabled={fixed}
          onchange={() => (draft.tests = toggled(draft.tests, test.id))}
        />
        {test.text}
      </label>
    {/each}
  </fieldset>
{/if}
{#if !mixing && stepped && draft.paints.length > 1}
  <NamedChoice
    label="Tinting strength counted against"
    value={draft.plan.strength_reference === null ? "" : String(draft.plan.strength_reference)}
    disabled={fixed}
    options={[
      { value: "", label: "no paint" },
      ...draft.paints.map((id) => ({ value: String(id), label: paintName(id) })),
    ]}
    onchange={(value) => (draft.strengthReference = value === "" ? null : Number(value))}
  />
{/if}
<details>
  <summary class="cursor-pointer">How it is painted, and other wishes</summary>
  <div class="mt-2 grid grid-cols-2 gap-3">
    {#each Object.entries(library.practices) as [name, values] (name)}
      <div>
        <span class="text-faint text-xs">{titles[name] ?? name}</span>
        <Choice
          label={titles[name] ?? name}
          value={draft.practice[name] ?? ""}
          options={[{ value: "", label: "not said" }, ...values.map((v) => ({ value: v, label: v }))]}
          onchange={(value) => (draft.practice[name] = value)}
        />
      </div>
    {/each}
    <label>
      <span class="text-faint text-xs">Painter</span>
      <input type="text" bind:value={() => draft.practice.painter ?? "", (v) => (draft.practice.painter = v)} />
    </label>
    <NamedChoice
      label="Brush"
      value={draft.practice.brush ?? ""}
      options={[{ value: "", label: "not said" }, ...library.brushes.map((b) => ({ value: b.name, label: b.name }))]}
      onchange={(value) => (draft.practice.brush = value)}
    />
    {#if !mixing}
      <label>
        <span class="text-faint text-xs">Swatches on a card, at most</span>
        <input type="number" min="1" placeholder="as many as lie well" bind:value={draft.perCard} disabled={fixed} />
      </label>
      <label>
        <span class="text-faint text-xs">Rows left blank, named afterwards</span>
        <input type="number" min="0" max="60" bind:value={draft.blankRows} disabled={fixed} />
      </label>
      <label class="flex items-baseline gap-2 self-end pb-1">
        <input type="checkbox" bind:checked={draft.framed} disabled={fixed} />
        a window frame to lay over other paper
      </label>
    {/if}
  </div>
</details>
<label class="block">
  <span class="text-faint text-xs">Note</span>
  <textarea rows="2" bind:value={draft.note}></textarea>
</label>
