<script lang="ts">
  import { historyQuery } from "../api/queries";

  interface Props {
    of: { session?: number; paint?: number };
  }
  let { of }: Props = $props();
  const history = historyQuery(() => of);
  const when = (at: string) => new Date(at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
</script>

<h2 class="mt-5 mb-1">History</h2>
<ol class="space-y-1" aria-label="History">
  {#each history.data ?? [] as line (line.id)}
    <li class:line-through={line.undone}>
      <details>
        <summary class="cursor-pointer">
          <span class="font-serif">{line.action}</span>
          <span class="text-faint text-xs">{when(line.at)}{line.person ? `, ${line.person}` : ""}</span>
        </summary>
        <ul class="text-xs">
          {#each line.changes as change, index (index)}
            <li>
              <b class="font-semibold">{change.thing}, {change.field}</b>:
              <span class="break-all">{change.before}</span>
              →
              <span class="break-all">{change.after}</span>
            </li>
          {/each}
        </ul>
      </details>
    </li>
  {:else}
    {#if history.data}<li class="text-faint">Nothing was changed yet.</li>{/if}
  {/each}
</ol>
