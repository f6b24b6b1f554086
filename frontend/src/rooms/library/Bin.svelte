<script lang="ts">
  import { client, unwrap } from "../../lib/api/client";
  import { binQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";

  const bin = binQuery();
  const attempt = new Attempt();
  const names: Record<string, string> = { papers: "paper", brushes: "brush", targets: "reference target" };

  interface Binned {
    key: string;
    text: string;
    what: string;
    restore: () => Promise<unknown>;
  }
  const binned = $derived<Binned[]>([
    ...(bin.data?.sessions ?? []).map(({ id, text }) => ({
      key: `session-${id}`,
      text,
      what: "session",
      restore: () =>
        unwrap(client.POST("/api/sessions/{session_id}/restore", { params: { path: { session_id: Number(id) } } })),
    })),
    ...(bin.data?.paints ?? []).map(({ id, text }) => ({
      key: `paint-${id}`,
      text,
      what: "paint",
      restore: () =>
        unwrap(client.POST("/api/paints/{paint_id}/restore", { params: { path: { paint_id: Number(id) } } })),
    })),
    ...Object.entries(bin.data?.parts ?? {}).flatMap(([kind, rows]) =>
      rows.map(({ id, text }) => ({
        key: `${kind}-${id}`,
        text,
        what: names[kind] ?? kind,
        restore: () =>
          unwrap(
            client.POST("/api/library/{kind}/{row_id}/restore", { params: { path: { kind, row_id: Number(id) } } }),
          ),
      })),
    ),
  ]);
</script>

{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
<p class="mb-2 font-serif">What was put away. Nothing here is erased; it can come back as it was.</p>
<ul class="bg-paper divide-strip divide-y" aria-label="Bin">
  {#each binned as row (row.key)}
    <li class="flex items-center gap-3 px-4 py-2">
      <span class="flex-1"
        ><span class="font-serif">{row.text}</span> <span class="text-faint text-xs">{row.what}</span></span
      >
      <Button
        onclick={() => void attempt.run(row.restore, "bin", "library", "overview")}
        title="Take {row.text} out of the bin">Take it out</Button
      >
    </li>
  {:else}
    {#if bin.data}<li class="text-faint p-4">The bin is empty.</li>{/if}
  {/each}
</ul>
