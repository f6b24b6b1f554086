<script lang="ts">
  import { onMount, untrack } from "svelte";
  import { timersQuery } from "../api/queries";
  import { Attempt } from "../attempt.svelte";
  import { clock } from "../format";
  import { route } from "../router";
  import { timers } from "../timers.svelte";

  const attempt = new Attempt();
  const asked = timersQuery(() => true);
  $effect(() => {
    const answer = asked.data;
    // Taking them up reads what it writes; only a new answer may start it.
    if (answer)
      untrack(() => {
        timers.take(answer);
      });
  });
  const SHOWN = 4;
  // A card's own page shows its waits itself, and larger.
  const soonest = $derived(
    timers.running.filter((t) => route.pathname !== `/paint/${t.card_id}`).sort((a, b) => a.left - b.left),
  );
  onMount(() => {
    const counting = setInterval(() => {
      timers.tick();
    }, 500);
    return () => {
      clearInterval(counting);
    };
  });
</script>

{#if soonest.length}
  <ul class="border-ink bg-paper flex flex-wrap gap-x-6 border-t-2 px-6 py-2" aria-label="Timers" aria-live="polite">
    {#each soonest.filter((t, i) => t.left <= 0 || i < SHOWN) as timer (timer.id)}
      <li class="flex items-baseline gap-2 {timer.left <= 0 ? 'text-lg font-semibold' : ''}">
        <a href="/paint/{timer.card_id}">{timer.title}</a>
        <span class="text-faint text-xs">{timer.card_id}</span>
        {#if timer.left > 0}
          <span>{clock(timer.left)}</span>
        {:else}
          <span>is over</span>
          <button
            class="border-ink min-h-10 border-2 px-4"
            onclick={() => void attempt.run(() => timers.end(timer.id), "timers")}>Heard</button
          >
        {/if}
      </li>
    {/each}
    {#if attempt.problem}<li role="alert" class="font-medium">{attempt.problem}</li>{/if}
    {#if soonest.length > SHOWN}<li class="text-faint">{soonest.length} waits in all</li>{/if}
  </ul>
{/if}
