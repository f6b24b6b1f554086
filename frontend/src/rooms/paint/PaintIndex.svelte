<script lang="ts">
  import { inboxQuery } from "../../lib/api/queries";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const inbox = inboxQuery();
  const stages = ["being painted", "drying", "to paint"];
  const cards = $derived((inbox.data?.waiting ?? []).filter((w) => stages.includes(w.stage)));
</script>

<Room title="Paint" subtitle="What lies on the bench: to be painted, being painted, drying.">
  {#if inbox.error}<Notice kind="problem">{inbox.error.message}</Notice>{/if}
  {#each stages as stage (stage)}
    {@const here = cards.filter((c) => c.stage === stage)}
    {#if here.length}
      <h2 class="mt-4 mb-1 first-letter:uppercase">{stage}</h2>
      <ul class="bg-paper divide-strip divide-y">
        {#each here as card (card.card_id)}
          <li class="flex items-center gap-4 px-4 py-2">
            <span class="flex-1">
              <span class="font-serif text-base">{card.session}, card {card.number}</span>
              <span class="text-faint text-xs">{card.card_id}</span>
            </span>
            {#if card.dry_at}<span
                >dry at {new Date(card.dry_at).toLocaleTimeString("en-GB", {
                  hour: "2-digit",
                  minute: "2-digit",
                })}</span
              >{/if}
            <Button href="/paint/{card.card_id}" primary={stage !== "drying"}
              >{stage === "to paint" ? "Begin" : "Go on"}</Button
            >
          </li>
        {/each}
      </ul>
    {/if}
  {/each}
  {#if inbox.data && cards.length === 0}
    <div class="bg-paper max-w-prose p-6">
      <p class="mb-3 font-serif">
        Nothing waits to be painted. A card lies here once it is laid out; the bench page then tells each step, keeps
        its waits, and takes notes with one touch.
      </p>
      <Button href="/ask" primary>Ask a question</Button>
    </div>
  {/if}
</Room>
