<script lang="ts">
  import { overviewQuery } from "../../lib/api/queries";
  import CardSheet from "./CardSheet.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import Button from "../../lib/ui/Button.svelte";

  const overview = overviewQuery();
  const cards = $derived((overview.data?.sessions ?? []).flatMap((s) => s.cards));
</script>

<Room title="Card" subtitle="Every card that was laid out, ready to print and paint.">
  <ul class="grid grid-cols-2 gap-5 xl:grid-cols-3">
    {#each cards as card (card.card_id)}
      <li>
        <a href="/card/{card.card_id}" class="block no-underline">
          <CardSheet layout={card.layout as never} paints={card.paints} />
          <span class="mt-1 block font-serif">{card.session_name}, card {card.number}</span>
          <span class="text-faint text-xs">{card.card_id}</span>
        </a>
      </li>
    {:else}
      <li class="bg-paper p-6">
        <p class="mb-3 font-serif">Cards will lie here once a session has paints.</p>
        <Button href="/ask" primary>Ask a question</Button>
      </li>
    {/each}
  </ul>
</Room>
