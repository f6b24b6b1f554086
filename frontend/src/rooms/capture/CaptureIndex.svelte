<script lang="ts">
  import { overviewQuery } from "../../lib/api/queries";
  import Button from "../../lib/ui/Button.svelte";
  import CaptureState from "../../lib/ui/CaptureState.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const overview = overviewQuery();
  const cards = $derived((overview.data?.sessions ?? []).flatMap((s) => s.cards));
</script>

<Room title="Capture" subtitle="Cards and their captures; files go to their own card.">
  <table class="bg-paper w-full">
    <thead class="text-faint text-left text-xs">
      <tr><th class="p-3">Card</th><th class="p-3">Newest capture</th><th class="p-3">How it stands</th><th></th></tr>
    </thead>
    <tbody>
      {#each cards as card (card.card_id)}
        {@const capture = card.captures.at(-1)}
        <tr class="border-strip border-t">
          <td class="p-3"
            ><span class="font-serif">{card.session_name}</span><br /><span class="text-faint text-xs"
              >{card.card_id}</span
            ></td
          >
          <td class="p-3">{capture ? (capture.file ?? "being scanned") : "none yet"}</td>
          <td class="w-80 p-3"
            >{#if capture}<CaptureState {capture} />{:else}painted? dry?{/if}</td
          >
          <td class="p-3 text-right"><Button href="/capture/{card.card_id}">{capture ? "Open" : "Capture"}</Button></td>
        </tr>
      {:else}
        <tr
          ><td class="p-6 font-serif" colspan="4">No card is laid out yet. <a href="/ask">Ask a question</a> first.</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
</Room>
