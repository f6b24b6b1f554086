<script lang="ts">
  import type { Card } from "../lib/api/client";
  import { calendarQuery, inboxQuery, overviewQuery } from "../lib/api/queries";
  import { nextStep } from "../lib/next-step";
  import Button from "../lib/ui/Button.svelte";
  import CaptureState from "../lib/ui/CaptureState.svelte";
  import Notice from "../lib/ui/Notice.svelte";
  import Room from "../lib/ui/Room.svelte";
  import CardSheet from "./card/CardSheet.svelte";

  const overview = overviewQuery();
  const inbox = inboxQuery();
  const calendar = calendarQuery();
  const newest = (card: Card) => card.captures.at(-1);
  const stages = $derived(new Map((inbox.data?.waiting ?? []).map((w) => [w.card_id, w.stage])));
  /** What is due, and of each card the next date that comes. */
  const dues = $derived(
    (calendar.data ?? []).filter(
      (d, index, all) =>
        d.state === "due" ||
        (d.state === "coming" && all.findIndex((o) => o.card_id === d.card_id && o.state === "coming") === index),
    ),
  );
  /** Whether their paints are named yet or not. */
  function swatchesOn(card: Card) {
    const count = (card.layout.swatches as unknown[]).length;
    return `${count} ${count === 1 ? "swatch" : "swatches"}`;
  }
</script>

<Room title="The bench" subtitle="What is planned, painted, drying, measured, and not yet looked at.">
  {#snippet actions()}
    {#if calendar.data?.length}<Button href="/api/calendar.ics" download>Long tests for a calendar</Button>{/if}
    <Button href="/ask" primary>Ask a new question</Button>
  {/snippet}
  {#if dues.length}
    <section class="bg-paper mb-4 px-4 py-3" aria-label="Long tests">
      <h2>Long tests</h2>
      <ul>
        {#each dues as due, index (index)}
          <li class={due.state === "due" ? "font-semibold" : "text-faint"}>
            {due.on} · <a href="/capture/{due.card_id}">{due.card_id}</a>: {due.what}{due.state === "due"
              ? " (due)"
              : ""}
          </li>
        {/each}
      </ul>
    </section>
  {/if}
  {#if overview.error}
    <Notice kind="problem">{overview.error.message}</Notice>
  {:else if overview.data?.sessions.length === 0}
    <div class="bg-paper max-w-prose p-6">
      <h2 class="mb-2">Nothing lies on the bench yet</h2>
      <p class="mb-4">
        Planned sessions will lie here, each with its cards and the next thing to do. Start with a question, such as
        which maker's version of a colour to buy, and choose the paints that could answer it.
      </p>
      <Button href="/ask" primary>Ask the first question</Button>
    </div>
  {:else}
    <div class="grid grid-cols-3 gap-x-3 xl:grid-cols-4">
      {#each overview.data?.sessions ?? [] as session (session.id)}
        {@const count = session.cards.length}
        {@const answered = session.cards.some((c) => c.captures.some((x) => x.measured))}
        <section class="mb-5 {count < 2 ? '' : count === 2 ? 'col-span-2' : 'col-span-full'}" aria-label={session.name}>
          <header class="mb-1 flex flex-wrap items-baseline gap-x-3">
            <h2><a href="/ask/{session.id}">{session.name}</a></h2>
            <p class="font-serif">{session.question_text}</p>
            {#if answered && count > 1}<a class="ml-auto" href="/compare/{session.id}">The answer so far</a>{/if}
          </header>
          <ul class="grid gap-3 {count < 2 ? '' : count === 2 ? 'grid-cols-2' : 'grid-cols-3 xl:grid-cols-4'}">
            {#each session.cards as card (card.card_id)}
              {@const capture = newest(card)}
              {@const step = nextStep(card, stages.get(card.card_id))}
              <li class="bg-paper flex flex-col">
                <a
                  href={step.href}
                  class="bg-margin block aspect-[210/148] overflow-hidden"
                  aria-label="{card.card_id}: {step.title}"
                >
                  {#if capture?.measured}
                    <img
                      src="/api/captures/{capture.id}/card.jpg"
                      alt="Card {card.card_id}, calibrated"
                      class="h-full w-full object-cover object-top"
                    />
                  {:else}
                    <CardSheet layout={card.layout as never} paints={card.paints} />
                  {/if}
                </a>
                <div class="flex flex-1 flex-col gap-1 px-3 py-2">
                  <p class="text-faint text-xs">
                    {card.card_id} · {swatchesOn(card)}
                  </p>
                  {#if capture}<CaptureState {capture} />{:else}<p class="text-xs">
                      {stages.get(card.card_id) ?? ""}
                    </p>{/if}
                  <div class="mt-auto flex gap-2 pt-1">
                    <Button href={step.href} primary>{step.title}</Button>
                    {#if answered && count === 1}<Button href="/compare/{session.id}">The answer</Button>{/if}
                    {#if capture?.measured && Object.keys(card.paints).length > 1}
                      <Button
                        href="/compare?paints={[...new Set(Object.values(card.paints).map((p) => p.id))]
                          .slice(0, 6)
                          .join(',')}">Compare</Button
                      >
                    {/if}
                  </div>
                </div>
              </li>
            {:else}
              <li class="bg-paper p-4">
                <p class="mb-3">No paint is chosen yet.</p>
                <Button href="/ask/{session.id}" primary>Choose paints</Button>
              </li>
            {/each}
          </ul>
        </section>
      {/each}
    </div>
  {/if}
</Room>
