<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Session } from "../../lib/api/client";
  import type { LayoutDocument } from "../../lib/api/measurement";
  import { cardQuery, sessionQuery } from "../../lib/api/queries";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { moved } from "../ask/plan.svelte";
  import CardSheet from "./CardSheet.svelte";

  const id = $derived(route.getParams("/card/:card").card);
  const card = cardQuery(() => id);
  const session = sessionQuery(() => card.data?.session ?? 0);
  const queries = useQueryClient();
  let problem = $state("");
  const layout = $derived(card.data?.layout as LayoutDocument | undefined);
  const fixed = $derived(session.data?.cards.some((c) => c.captures.length > 0) ?? true);
  const cautions = $derived(card.data?.cautions ?? []);

  async function apply(change: () => Promise<Session>): Promise<void> {
    problem = "";
    try {
      const data = await change();
      queries.setQueryData(["session", data.id], data);
      await queries.invalidateQueries({ queryKey: ["card"] });
      await queries.invalidateQueries({ queryKey: ["overview"] });
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
  }

  function move(paint: number, by: number): void {
    const data = session.data;
    if (!data) return;
    const from = data.paints.indexOf(paint);
    const { name, question, paper, sheet, note } = data;
    void apply(() =>
      unwrap(
        client.PUT("/api/sessions/{session_id}", {
          params: { path: { session_id: data.id } },
          body: {
            revision: data.revision,
            plan: { name, question, paper, sheet, note, paints: moved(data.paints, from, from + by) },
          },
        }),
      ),
    );
  }
  function undo(): void {
    const data = session.data;
    if (data)
      void apply(() =>
        unwrap(client.POST("/api/sessions/{session_id}/undo", { params: { path: { session_id: data.id } } })),
      );
  }
  function onkeydown(event: KeyboardEvent): void {
    if ((event.ctrlKey || event.metaKey) && event.key === "z" && session.data?.can_undo) undo();
  }
</script>

<svelte:window {onkeydown} />
<Room title={card.data ? `${card.data.session_name}, card ${card.data.number}` : "Card"} subtitle={id}>
  {#snippet actions()}
    <Button href="/api/cards/{id}/card.pdf" download>PDF to print</Button>
    <Button href="/api/cards/{id}/card.json" download>Layout file</Button>
    <Button href="/capture/{id}" primary>Capture it</Button>
  {/snippet}
  {#snippet notebook()}
    <h2 class="mb-1">Paints, from the top</h2>
    {#if problem}<Notice kind="problem">{problem}</Notice>{/if}
    <ol class="divide-strip divide-y">
      {#each Object.entries(card.data?.paints ?? {}) as [swatch, paint] (swatch)}
        <li class="flex items-center gap-2 py-1.5">
          <span class="text-faint w-6">{swatch}</span>
          <span class="flex-1 leading-tight">
            <span class="font-serif">{paint.name}</span><br />
            <span class="text-faint text-xs">{paint.maker} · {paint.pigments.join(" ")}</span>
          </span>
          {#if !fixed}
            <button
              class="border-hairline border px-2"
              aria-label="Move {paint.name} up"
              onclick={() => move(paint.id, -1)}>↑</button
            >
            <button
              class="border-hairline border px-2"
              aria-label="Move {paint.name} down"
              onclick={() => move(paint.id, 1)}>↓</button
            >
          {/if}
        </li>
      {/each}
    </ol>
    {#if fixed}
      <p class="text-faint mt-2 text-xs">The card was captured, so its places are fixed.</p>
    {:else if session.data?.can_undo}
      <p class="mt-2"><button class="underline" onclick={undo}>Take back: {session.data.can_undo}</button></p>
    {/if}
    <h2 class="mt-5 mb-1">Before you paint</h2>
    <ul class="list-disc space-y-1 pl-4 font-serif">
      <li>Print at 100 %; the ruler at the foot must measure 40 mm.</li>
      <li>Ink the dark bar with waterproof black and let it dry first.</li>
      <li>Masstone first, then draw it out into the palest wash you can.</li>
      <li>Capture only when dry.</li>
    </ul>
    {#if cautions.length}
      <h2 class="mt-5 mb-1">Caution</h2>
      <ul class="list-disc space-y-1 pl-4 font-serif">
        {#each cautions as caution (caution)}<li>{caution}</li>{/each}
      </ul>
    {/if}
  {/snippet}
  {#if card.error}<Notice kind="problem">{card.error.message}</Notice>{/if}
  {#if layout}
    <div class="mx-auto" style:max-width="{layout.size_mm[0] > layout.size_mm[1] ? 880 : 560}px">
      <CardSheet {layout} paints={card.data?.paints ?? {}} detailed />
      <p class="text-faint mt-1 text-xs">
        {layout.size_mm[0]} × {layout.size_mm[1]} mm. Reference patches are printed, but never trusted: their values come
        from the target's own file.
      </p>
    </div>
  {/if}
</Room>
