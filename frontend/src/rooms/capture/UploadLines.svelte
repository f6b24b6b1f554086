<script lang="ts">
  import ProgressBar from "../../lib/ui/ProgressBar.svelte";
  import type { Outcome } from "./uploads.svelte";

  interface Props {
    outcomes: Outcome[];
  }
  let { outcomes }: Props = $props();
</script>

{#if outcomes.length}
  <ul class="bg-paper mt-3 max-h-60 overflow-y-auto px-4 py-2" aria-label="Files" role="log">
    {#each outcomes as line, index (index)}
      <li class:font-semibold={line.problem}>
        {line.sentence.includes(line.name) ? "" : line.name}
        {line.sentence}
        {#if line.share < 1}
          <ProgressBar label="Sending {line.name}" share={line.share} narrow />
          {Math.round(line.share * 100)} %
        {/if}
      </li>
    {/each}
  </ul>
{/if}
