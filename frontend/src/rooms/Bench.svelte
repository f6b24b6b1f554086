<script lang="ts">
  import type { Card } from "../lib/api/client";
  import { overviewQuery } from "../lib/api/queries";
  import { nextStep } from "../lib/next-step";
  import Button from "../lib/ui/Button.svelte";
  import CaptureState from "../lib/ui/CaptureState.svelte";
  import Notice from "../lib/ui/Notice.svelte";
  import Room from "../lib/ui/Room.svelte";

  const overview = overviewQuery();
  const newest = (card: Card) => card.captures.at(-1);
</script>

<Room title="The bench" subtitle="What is planned, waiting, measured, and not yet looked at.">
  {#snippet actions()}<Button href="/ask" primary>Ask a new question</Button>{/snippet}
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
    <ul class="grid gap-4 lg:grid-cols-2 xl:grid-cols-3">
      {#each overview.data?.sessions ?? [] as session (session.id)}
        {#each session.cards as card (card.card_id)}
          {@const capture = newest(card)}
          {@const step = nextStep(card)}
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
                  class="h-full w-full object-cover"
                />
              {:else}
                <span class="text-faint grid h-full place-items-center">not captured yet</span>
              {/if}
            </a>
            <div class="flex flex-1 flex-col gap-1 p-4">
              <h2><a href="/ask/{session.id}">{session.name}</a></h2>
              <p class="font-serif">{session.question_text}</p>
              <p class="text-faint text-xs">{card.card_id} · {Object.keys(card.paints).length} paints</p>
              {#if capture}<CaptureState {capture} />{/if}
              <div class="mt-auto flex gap-2 pt-3">
                <Button href={step.href} primary>{step.title}</Button>
                {#if capture?.measured}
                  <Button
                    href="/compare?paints={Object.values(card.paints)
                      .map((p) => p.id)
                      .join(',')}">Compare</Button
                  >
                {/if}
              </div>
            </div>
          </li>
        {:else}
          <li class="bg-paper p-4">
            <h2>{session.name}</h2>
            <p class="mb-3">No paint is chosen yet.</p>
            <Button href="/ask/{session.id}" primary>Choose paints</Button>
          </li>
        {/each}
      {/each}
    </ul>
  {/if}
</Room>
