<script lang="ts">
  import { tick } from "svelte";
  import type { Paint } from "../../lib/api/client";
  import { moved, type PlanDraft, type Target } from "./plan.svelte";

  interface Props {
    draft: PlanDraft;
    list: Target;
    title: string;
    empty: string;
    paints: ReadonlyMap<number, Paint>;
    /** The order that the plan's arrangement gives, where it is another than the list's own. */
    order: readonly number[];
    fixed: boolean;
  }
  let { draft, list, title, empty, paints, order, fixed }: Props = $props();
  const same = $derived(order.length === draft[list].length && order.every((id) => draft[list].includes(id)));
  // An order by hand is at hand already: a second move must not start from an answer that is still on its way.
  const shown = $derived(draft.arrangement !== "hand" && same ? order : draft[list]);
  let dragged = $state<number | null>(null);

  function name(id: number): string {
    const paint = paints.get(id);
    return paint ? `${paint.name} · ${paint.maker}` : "a paint no longer in the library";
  }
  /** What is seen becomes the hand's own order, then one paint moves in it. */
  function move(from: number, to: number): void {
    draft[list] = moved(shown, from, to);
    draft.arrangement = "hand";
  }
  let rows = $state<HTMLOListElement>();
  /** The focus goes with the paint, so that it can be moved on. */
  async function onkeydown(event: KeyboardEvent, index: number): Promise<void> {
    if (!event.altKey || fixed || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
    event.preventDefault();
    const to = index + (event.key === "ArrowUp" ? -1 : 1);
    if (to < 0 || to >= shown.length) return;
    move(index, to);
    await tick();
    rows?.children[to]?.querySelector("button")?.focus();
  }
</script>

<h2>{title} <span class="text-faint text-xs">{shown.length || ""}</span></h2>
{#if shown.length === 0}
  <p class="border-hairline text-faint border border-dashed p-3">{empty}</p>
{/if}
<ol bind:this={rows} class="divide-strip max-h-60 divide-y overflow-y-auto" aria-label={title}>
  {#each shown as id, index (id)}
    <li
      class="flex items-center gap-2 py-1 {dragged === index ? 'bg-strip' : ''}"
      draggable={!fixed}
      ondragstart={() => (dragged = index)}
      ondragend={() => (dragged = null)}
      ondragover={(e) => {
        e.preventDefault();
      }}
      ondrop={() => {
        if (dragged !== null) move(dragged, index);
      }}
    >
      <span class="text-faint w-5 text-right">{index + 1}</span>
      <button
        class="flex-1 text-left leading-tight"
        onkeydown={(e) => void onkeydown(e, index)}
        title="Alt with ↑ or ↓ moves it"
      >
        <span class="font-serif">{name(id)}</span>
        {#if draft.reasons[id]}<span class="text-faint block text-xs">{draft.reasons[id]}</span>{/if}
      </button>
      {#if !fixed}
        <button
          class="border-hairline border px-2"
          aria-label="Move {name(id)} up"
          disabled={index === 0}
          onclick={() => {
            move(index, index - 1);
          }}>↑</button
        >
        <button
          class="border-hairline border px-2"
          aria-label="Move {name(id)} down"
          disabled={index === shown.length - 1}
          onclick={() => {
            move(index, index + 1);
          }}>↓</button
        >
        <button
          class="border-hairline border px-2"
          aria-label="Take {name(id)} off"
          onclick={() => {
            draft.toggle(id, list);
          }}>×</button
        >
      {/if}
    </li>
  {/each}
</ol>
