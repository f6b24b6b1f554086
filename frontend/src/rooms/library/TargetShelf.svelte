<script lang="ts">
  import { client, unwrap, type Library } from "../../lib/api/client";
  import { Attempt } from "../../lib/attempt.svelte";
  import { howLongAgo } from "../../lib/format";
  import Button from "../../lib/ui/Button.svelte";
  import FileButton from "../../lib/ui/FileButton.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import IntoBin from "./IntoBin.svelte";
  import TargetChart from "./TargetChart.svelte";

  interface Props {
    library: Library;
  }
  let { library }: Props = $props();
  const attempt = new Attempt();
  const blank = { name: "", text: "", measured: "", file: "" };
  let target = $state({ ...blank });
  let opened = $state<number | null>(null);

  async function addTarget(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const body = { name: target.name, text: target.text, measured_on: target.measured || null };
    if (await attempt.run(() => unwrap(client.POST("/api/targets", { body })), "library")) target = { ...blank };
  }
</script>

{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
<ul class="bg-paper divide-strip mb-4 divide-y" aria-label="Reference targets">
  {#each library.targets ?? [] as row (row.id)}
    <li class="px-4 py-2">
      <span class="font-serif">{row.name}</span>
      <span class="text-faint"
        >{row.patches} patches{row.measured_on
          ? `, measured ${row.measured_on}, ${howLongAgo(row.measured_on)}`
          : ""}{row.note ? `. ${row.note}` : ""}</span
      >
      <button
        class="ml-3 underline"
        aria-expanded={opened === row.id}
        onclick={() => (opened = opened === row.id ? null : row.id)}>its captures over time</button
      >
      <span class="float-right"><IntoBin kind="targets" {row} {attempt} /></span>
      {#if opened === row.id}<div class="py-2"><TargetChart target={row.id} /></div>{/if}
    </li>
  {:else}<li class="p-4 font-serif">No target is named yet. A target kept here can be given to any card.</li>{/each}
</ul>
<form class="bg-paper grid max-w-3xl grid-cols-4 items-end gap-2 p-4" onsubmit={addTarget}>
  <label><span class="text-faint text-xs">Name of the target</span><input type="text" bind:value={target.name} /></label
  >
  <label><span class="text-faint text-xs">Measured on</span><input type="date" bind:value={target.measured} /></label>
  <FileButton
    label="File of the target"
    accept=".txt,.cgats,.cie,.it8"
    onfiles={(files) =>
      void files[0]?.text().then((text) => (target = { ...target, text, file: files[0]?.name ?? "" }))}
    >{target.file || "Its CGATS file"}</FileButton
  >
  <Button type="submit" primary>Add the target</Button>
</form>
