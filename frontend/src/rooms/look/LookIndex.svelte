<script lang="ts">
  import { overviewQuery } from "../../lib/api/queries";
  import Button from "../../lib/ui/Button.svelte";
  import CaptureState from "../../lib/ui/CaptureState.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const overview = overviewQuery();
  const found = $derived(
    (overview.data?.sessions ?? []).flatMap((s) =>
      s.cards.flatMap((card) => card.captures.filter((c) => c.measured).map((capture) => ({ card, capture }))),
    ),
  );
</script>

<Room title="Look" subtitle="Every measured capture, to be looked at closely.">
  <ul class="grid grid-cols-2 gap-5 xl:grid-cols-3">
    {#each found as { card, capture } (capture.id)}
      <li class="bg-paper">
        <a href="/look/{capture.id}" class="block no-underline">
          <img src="/api/captures/{capture.id}/card.jpg" alt="Card {card.card_id}" class="block w-full" />
          <span class="block px-3 pt-2 font-serif">{card.session_name}, card {card.number}</span>
        </a>
        <div class="px-3 pb-3">
          <p class="text-faint text-xs">{card.card_id} · {capture.file ?? `simulated ${capture.source}`}</p>
          <CaptureState {capture} />
        </div>
      </li>
    {:else}
      <li class="bg-paper p-6">
        <p class="mb-3 font-serif">Measured cards will lie here. Capture one first.</p>
        <Button href="/capture" primary>Capture a card</Button>
      </li>
    {/each}
  </ul>
</Room>
