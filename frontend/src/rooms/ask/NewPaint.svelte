<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Paint } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import { codeNote, type PigmentList } from "./plan.svelte";

  interface Props {
    pigments: PigmentList;
    onadded: (paint: Paint) => void;
  }
  let { pigments, onadded }: Props = $props();
  const queries = useQueryClient();
  let maker = $state("");
  let name = $state("");
  let codes = $state("");
  let form = $state("tube");
  let transparency = $state("");
  let staining = $state("");
  let granulation = $state("");
  let note = $state("");
  let problem = $state("");

  const typed = $derived(
    codes
      .split(/[,;]+|\s+(?=[Pp])/)
      .map((code) => code.trim())
      .filter(Boolean),
  );
  const claims = $derived(
    Object.fromEntries(
      Object.entries({ transparency, staining, granulation }).filter(([, claim]) => claim.trim() !== ""),
    ),
  );

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = "";
    try {
      const paint = await unwrap(
        client.POST("/api/paints", { body: { maker, name, pigments: typed, form, claims, note } }),
      );
      await queries.invalidateQueries({ queryKey: ["library"] });
      onadded(paint);
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
  }
</script>

<form class="mt-2 grid grid-cols-2 gap-2" onsubmit={add}>
  <label><span class="text-faint text-xs">Maker</span><input type="text" bind:value={maker} /></label>
  <label><span class="text-faint text-xs">Name</span><input type="text" bind:value={name} /></label>
  <label
    ><span class="text-faint text-xs">Pigment codes</span><input
      type="text"
      bind:value={codes}
      placeholder="PB29 PV19"
    /></label
  >
  <div>
    <span class="text-faint text-xs">Form</span>
    <Choice
      label="Form"
      bind:value={form}
      options={[
        { value: "tube", label: "tube" },
        { value: "pan", label: "pan" },
        { value: "dot", label: "sample dot" },
        { value: "dry", label: "dry cake" },
      ]}
    />
  </div>
  <label
    ><span class="text-faint text-xs">Label: transparency</span><input type="text" bind:value={transparency} /></label
  >
  <label><span class="text-faint text-xs">Label: staining</span><input type="text" bind:value={staining} /></label>
  <label><span class="text-faint text-xs">Label: granulation</span><input type="text" bind:value={granulation} /></label
  >
  <label><span class="text-faint text-xs">Note</span><input type="text" bind:value={note} /></label>
  {#if typed.length}
    <ul class="col-span-2 text-xs" aria-live="polite" aria-label="What the codes mean">
      {#each typed as code (code)}<li>{codeNote(pigments, code)}</li>{/each}
    </ul>
  {/if}
  {#if problem}<div class="col-span-2"><Notice kind="problem">{problem}</Notice></div>{/if}
  <div class="col-span-2"><Button type="submit" primary>Add the paint</Button></div>
</form>
