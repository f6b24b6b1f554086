<script lang="ts">
  import { answerQuery, sessionQuery } from "../../lib/api/queries";
  import { unbroken } from "../../lib/format";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const id = $derived(Number(route.getParams("/compare/:session").session));
  const answer = answerQuery(() => id);
  const session = sessionQuery(() => id);
  const paints = $derived(session.data?.paints.slice(0, 6) ?? []);
  const [heading, ...rows] = $derived(answer.data?.table ?? []);
</script>

<Room title={answer.data?.question ?? "The answer"} subtitle={session.data?.name}>
  {#snippet actions()}
    {#if session.data}<Button href="/ask/{id}">Its plan</Button>{/if}
    {#if paints.length > 1}<Button href="/compare?paints={paints.join(',')}" primary>Side by side</Button>{/if}
  {/snippet}
  {#snippet notebook()}
    {#if session.data}<h2 class="mb-2">Where it comes from</h2>{/if}
    <ul class="space-y-3" aria-label="Cards of the answer">
      {#each session.data?.cards ?? [] as card (card.card_id)}
        {@const capture = card.captures.filter((c) => c.measured).at(-1)}
        <li>
          {#if capture}
            <a href="/look/{capture.id}"
              ><img
                src="/api/captures/{capture.id}/card.jpg"
                alt="Card {card.card_id}, calibrated"
                class="block w-full"
              /></a
            >
            <span class="text-faint text-xs">{card.card_id}</span>
          {:else}
            <span class="font-serif">Card {card.number} is not measured yet.</span>
            <a href="/capture/{card.card_id}">Capture it</a>
          {/if}
        </li>
      {/each}
    </ul>
  {/snippet}
  {#if answer.error}<Notice kind="problem">{answer.error.message}</Notice>{/if}
  {#if answer.data}
    <section class="bg-paper max-w-4xl p-6" aria-label="The answer">
      <ul class="space-y-2 font-serif text-lg">
        {#each answer.data.sentences as sentence, index (index)}<li>{unbroken(sentence)}</li>{/each}
      </ul>
      {#if rows.length}
        <table class="mt-5 w-full text-left" aria-label="Figures of the answer">
          <thead class="text-faint text-xs">
            <tr
              >{#each heading ?? [] as cell, index (index)}<th class="py-1 pr-4 font-normal">{cell}</th>{/each}</tr
            >
          </thead>
          <tbody>
            {#each rows as row, line (line)}
              <tr class="border-strip border-t">
                {#each row as cell, index (index)}
                  {#if index === 0}<th scope="row" class="py-1 pr-4 font-serif font-normal">{cell}</th>
                  {:else}<td class="py-1 pr-4">{cell}</td>{/if}
                {/each}
              </tr>
            {/each}
          </tbody>
        </table>
      {/if}
      <p class="text-faint mt-4 text-xs">
        From {answer.data.measured} of {answer.data.cards}
        {answer.data.cards === 1 ? "card" : "cards"}, each by its newest dry capture.
      </p>
    </section>
  {/if}
</Room>
