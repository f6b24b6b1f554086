<script lang="ts">
  import type { Paint } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import NamedChoice from "../../lib/ui/NamedChoice.svelte";
  import { codeNote, type PigmentList } from "../ask/plan.svelte";
  import { forget, keep, kept } from "../../lib/kept";
  import { isLabel, labelOf, splitCodes, type PaintLabel } from "./paint-label";

  interface Props {
    pigments: PigmentList;
    paint?: Paint;
    submit: string;
    /** True where it was taken. */
    onsubmit: (label: PaintLabel) => Promise<boolean>;
  }
  let { pigments, paint, submit, onsubmit }: Props = $props();
  const place = $derived(`label-${paint?.id ?? "new"}`);
  let label = $state(labelOf(undefined));
  let codes = $state("");
  let shown = -1;
  // A label that came anew from the server fills the form; typing is never overwritten by the same one.
  $effect(() => {
    const key = paint ? paint.id * 1e6 + paint.revision : 0;
    if (key === shown) return;
    shown = key;
    label = kept(place, isLabel) ?? labelOf(paint);
    codes = label.pigments.join(" ");
  });
  // A label is kept as it is typed until it is sent, and forgotten where it says nothing new.
  $effect(() => {
    const now = { ...$state.snapshot(label), pigments: splitCodes(codes) };
    if (shown === -1) return;
    if (JSON.stringify(now) === JSON.stringify(labelOf(paint))) forget(place);
    else keep(place, now);
  });
  const typed = $derived(splitCodes(codes));
  const claims = [
    ["transparency", "Label: transparency"],
    ["staining", "Label: staining"],
    ["granulation", "Label: granulation"],
    ["lightfastness", "Label: light-fastness"],
  ] as const;

  async function send(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await onsubmit({ ...label, pigments: typed })) forget(place);
  }
</script>

<form class="mt-2 grid grid-cols-2 gap-2" onsubmit={send}>
  <label><span class="text-faint text-xs">Maker</span><input type="text" bind:value={label.maker} /></label>
  <label><span class="text-faint text-xs">Name</span><input type="text" bind:value={label.name} /></label>
  <label
    ><span class="text-faint text-xs">Pigment codes</span><input
      type="text"
      bind:value={codes}
      placeholder="PB29 PV19"
    /></label
  >
  <NamedChoice
    label="Form"
    bind:value={label.form}
    options={[
      { value: "tube", label: "tube" },
      { value: "pan", label: "pan" },
      { value: "dot", label: "sample dot" },
      { value: "dry", label: "dry cake" },
    ]}
  />
  {#if typed.length}
    <ul class="col-span-2 text-xs" aria-live="polite" aria-label="What the codes mean">
      {#each typed as code (code)}<li>{codeNote(pigments, code)}</li>{/each}
    </ul>
  {/if}
  <label><span class="text-faint text-xs">Range or set</span><input type="text" bind:value={label.range} /></label>
  <label
    ><span class="text-faint text-xs">Place in it</span><input type="number" min="0" bind:value={label.place} /></label
  >
  <div class="col-span-2 grid grid-cols-4 gap-2">
    <label><span class="text-faint text-xs">Size, ml</span><input type="text" bind:value={label.size_ml} /></label>
    <label><span class="text-faint text-xs">Price</span><input type="text" bind:value={label.price} /></label>
    <label
      ><span class="text-faint text-xs">Currency</span><input
        type="text"
        maxlength="3"
        bind:value={label.currency}
      /></label
    >
    <label><span class="text-faint text-xs">Series</span><input type="text" bind:value={label.series} /></label>
  </div>
  {#each claims as [key, title] (key)}
    <label
      ><span class="text-faint text-xs">{title}</span><input
        type="text"
        bind:value={() => label.claims[key] ?? "", (v) => (label.claims[key] = v)}
      /></label
    >
  {/each}
  <label><span class="text-faint text-xs">Batch</span><input type="text" bind:value={label.batch} /></label>
  <label
    ><span class="text-faint text-xs">Hazards on the label</span><input type="text" bind:value={label.hazards} /></label
  >
  <label class="col-span-2"
    ><span class="text-faint text-xs">Note</span><input type="text" bind:value={label.note} /></label
  >
  <label class="flex items-baseline gap-2"><input type="checkbox" bind:checked={label.sparkles} /> it sparkles</label>
  <label class="flex items-baseline gap-2"><input type="checkbox" bind:checked={label.owned} /> it is here</label>
  <div class="col-span-2"><Button type="submit" primary>{submit}</Button></div>
</form>
