<script lang="ts">
  import type { Light } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";
  import { SIDES } from "./sides";

  interface Props {
    value: Light;
  }
  let { value = $bindable() }: Props = $props();
  let side = $state("0");
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
  <label class="flex items-baseline gap-2">
    <input
      type="checkbox"
      bind:checked={
        () => value.low_lamp ?? false,
        (low) =>
          (value = { ...value, low_lamp: low, azimuth_deg: low ? Number(side) : null, elevation_deg: low ? 20 : null })
      }
    />
    lit by a low lamp only
  </label>
  {#if value.low_lamp}
    <span class="flex items-baseline gap-2">
      from
      <Choice
        label="Side of the lamp"
        compact
        bind:value={side}
        options={SIDES}
        onchange={(chosen) => (value = { ...value, azimuth_deg: Number(chosen) })}
      />
    </span>
    <label class="flex items-baseline gap-2"
      ><input type="number" min="1" max="60" class="w-16" bind:value={value.elevation_deg} /> ° above the paper</label
    >
  {/if}
</div>
