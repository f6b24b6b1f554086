<script lang="ts">
  import { client, unwrap, type Library } from "../../lib/api/client";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import IntoBin from "./IntoBin.svelte";

  interface Props {
    library: Library;
  }
  let { library }: Props = $props();
  const attempt = new Attempt();
  const blank = { name: "", kind: "", size: "" };
  let brush = $state({ ...blank });

  async function addBrush(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await attempt.run(() => unwrap(client.POST("/api/brushes", { body: brush })), "library")) brush = { ...blank };
  }
</script>

{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
<ul class="bg-paper divide-strip mb-4 divide-y" aria-label="Brushes">
  {#each library.brushes ?? [] as row (row.id)}
    <li class="px-4 py-2">
      <span class="font-serif">{row.name}</span> <span class="text-faint">{row.kind} {row.size}</span>
      <span class="float-right"><IntoBin kind="brushes" {row} {attempt} /></span>
    </li>
  {:else}<li class="p-4 font-serif">No brush is named yet; a session can say which one it used.</li>{/each}
</ul>
<form class="bg-paper grid max-w-3xl grid-cols-4 gap-2 p-4" onsubmit={addBrush}>
  <label><span class="text-faint text-xs">Name of the brush</span><input type="text" bind:value={brush.name} /></label>
  <label><span class="text-faint text-xs">Kind</span><input type="text" bind:value={brush.kind} /></label>
  <label><span class="text-faint text-xs">Size</span><input type="text" bind:value={brush.size} /></label>
  <div class="self-end"><Button type="submit" primary>Add the brush</Button></div>
</form>
