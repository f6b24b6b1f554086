<script lang="ts">
  import { client, unwrap, type Card } from "../../lib/api/client";
  import { calendarQuery } from "../../lib/api/queries";
  import type { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";

  interface Props {
    card: Card;
    attempt: Attempt;
  }
  let { card, attempt }: Props = $props();
  const calendar = calendarQuery();
  const dates = $derived((calendar.data ?? []).filter((d) => d.card_id === card.card_id));
  let began = $derived(card.exposure?.began ?? new Date().toISOString().slice(0, 10));
  let hours = $derived(card.exposure?.hours_a_day ?? 8);
  let every = $derived(card.exposure?.every_weeks ?? 4);
  let weeks = $derived(card.exposure?.weeks ?? 24);
  let dark = $derived(card.exposure?.dark_weeks ?? 4);

  function begin(event: SubmitEvent): void {
    event.preventDefault();
    const body = { began, hours_a_day: hours, every_weeks: every, weeks, dark_weeks: dark };
    const path = { params: { path: { card_id: card.card_id } } };
    void attempt.run(() => unwrap(client.PUT("/api/cards/{card_id}/exposure", { ...path, body })), "calendar", "card");
  }
</script>

<h2 class="mt-5 mb-1">In the light</h2>
<form class="grid grid-cols-2 gap-2" onsubmit={begin}>
  <label class="col-span-2"
    ><span class="text-faint text-xs">In the light since</span><input type="date" bind:value={began} /></label
  >
  <label
    ><span class="text-faint text-xs">Hours of light a day</span><input
      type="number"
      step="any"
      min="0.5"
      max="24"
      bind:value={hours}
    /></label
  >
  <label
    ><span class="text-faint text-xs">Measure every … weeks</span><input
      type="number"
      min="1"
      bind:value={every}
    /></label
  >
  <label
    ><span class="text-faint text-xs">Weeks in the light</span><input type="number" min="1" bind:value={weeks} /></label
  >
  <label
    ><span class="text-faint text-xs">Then weeks in the dark</span><input
      type="number"
      min="0"
      bind:value={dark}
    /></label
  >
  <div class="col-span-2">
    <Button type="submit">{dates.length ? "Correct the dates" : "It lies in the light"}</Button>
  </div>
</form>
{#if dates.length}
  <ul class="mt-2" aria-label="Dates of this card">
    {#each dates as due (due.on)}
      <li class={due.state === "due" ? "font-semibold" : due.state === "done" ? "text-faint" : ""}>
        {due.state === "done" ? "✓" : due.state === "due" ? "▸" : "·"}
        {due.on}: {due.what}
      </li>
    {/each}
  </ul>
{/if}
<p class="text-faint mt-1 text-xs">
  Ultraviolet lamps need the eye and skin protection that their maker names. A strip in a window screens for your own
  use; it certifies nothing.
</p>
