<script lang="ts">
  import type { Light } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";
  import { SIDES } from "./sides";

  interface Props {
    value: Light;
  }
  let { value = $bindable() }: Props = $props();
  let side = $state("0");
  const group = $props.id();
  const lights = [
    ["even", "lit evenly"],
    ["low", "lit by a low lamp only"],
    ["beside", "lit evenly again: turned round, or exposed otherwise"],
  ] as const;
  const lit = $derived(value.low_lamp ? "low" : value.beside ? "beside" : "even");

  function light(kind: string): void {
    const low = kind === "low";
    value = {
      ...value,
      low_lamp: low,
      beside: kind === "beside",
      azimuth_deg: low ? Number(side) : null,
      elevation_deg: low ? 20 : null,
    };
  }
</script>

<div class="mt-2 flex flex-wrap items-baseline gap-x-6 gap-y-2">
  <fieldset class="flex gap-4">
    <legend class="sr-only">State of the paint on these files</legend>
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={value.state} value="dry" /> they are dry</label
    >
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={value.state} value="wet" /> still wet, kept for the drying shift</label
    >
    <label class="flex items-baseline gap-2"
      ><input type="radio" bind:group={value.state} value="before_lifting" /> dry, before lifting</label
    >
  </fieldset>
  <fieldset class="flex gap-4">
    <legend class="sr-only">Light on these files</legend>
    {#each lights as [kind, words] (kind)}
      <label class="flex items-baseline gap-2">
        <input type="radio" name={group} value={kind} checked={lit === kind} onchange={() => light(kind)} />
        {words}
      </label>
    {/each}
  </fieldset>
  {#if value.low_lamp}
    <span class="flex items-baseline gap-2">
      the lamp stood at
      <Choice
        label="Side of the lamp"
        compact
        bind:value={side}
        options={SIDES}
        onchange={(chosen) => (value = { ...value, azimuth_deg: Number(chosen) })}
      />
      <label class="flex items-baseline gap-2"
        ><input type="number" min="1" max="60" class="w-16" bind:value={value.elevation_deg} /> ° above the paper</label
      >
    </span>
  {/if}
</div>
