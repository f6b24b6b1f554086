<script lang="ts">
  import { client, unwrap, type Library } from "../../lib/api/client";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import IntoBin from "./IntoBin.svelte";
  import { readWeight } from "./read-weight";

  interface Props {
    library: Library;
  }
  let { library }: Props = $props();
  const attempt = new Attempt();
  const blank = { name: "", weight: "", surface: "", fibre: "", note: "" };
  let paper = $state({ ...blank });

  async function addPaper(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const { weight, ...rest } = paper;
    const added = await attempt.run(
      async () => unwrap(client.POST("/api/papers", { body: { ...rest, weight_gsm: readWeight(weight) } })),
      "library",
    );
    if (added) paper = { ...blank };
  }
</script>

{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
<table class="bg-paper mb-4 w-full text-left" aria-label="Papers">
  <thead class="text-faint text-xs">
    <tr>
      <th class="p-2 font-normal">paper</th><th class="p-2 font-normal">weight</th><th class="p-2 font-normal"
        >surface</th
      >
      <th class="p-2 font-normal">fibre</th><th class="p-2 font-normal">white as measured, L* a* b*</th>
      <th class="p-2 font-normal">relief</th><th></th>
    </tr>
  </thead>
  <tbody>
    {#each library.papers ?? [] as row (row.id)}
      <tr class="border-strip border-t">
        <th scope="row" class="p-2 font-serif font-normal">{row.name}</th>
        <td class="p-2">{row.weight_gsm ? `${row.weight_gsm} g/m²` : ""}</td>
        <td class="p-2">{row.surface}</td>
        <td class="p-2">{row.fibre}</td>
        <td class="p-2">
          {#if row.white}
            {row.white.map((v) => v.toFixed(1)).join("  ")}
            <span class="text-faint text-xs"
              >over {row.captures}
              {row.captures === 1 ? "capture" : `captures, within ${row.spread?.toFixed(1)} ΔE*ab`}</span
            >
          {:else}<span class="text-faint">no capture names it yet</span>{/if}
        </td>
        <td class="p-2">
          {#if row.slope === null}<span class="text-faint">needs shots with a low lamp</span>
          {:else}slopes of {(100 * row.slope).toFixed(1)} %{/if}
        </td>
        <td class="p-2 text-right"><IntoBin kind="papers" {row} {attempt} /></td>
      </tr>
    {/each}
  </tbody>
</table>
<form class="bg-paper grid max-w-3xl grid-cols-3 gap-2 p-4" onsubmit={addPaper}>
  <label><span class="text-faint text-xs">Name of the paper</span><input type="text" bind:value={paper.name} /></label>
  <label><span class="text-faint text-xs">Weight, g/m²</span><input type="text" bind:value={paper.weight} /></label>
  <label
    ><span class="text-faint text-xs">Surface</span><input
      type="text"
      placeholder="rough, cold press, hot press"
      bind:value={paper.surface}
    /></label
  >
  <label><span class="text-faint text-xs">Fibre</span><input type="text" bind:value={paper.fibre} /></label>
  <label><span class="text-faint text-xs">Note on the paper</span><input type="text" bind:value={paper.note} /></label>
  <div class="self-end"><Button type="submit" primary>Add the paper</Button></div>
</form>
