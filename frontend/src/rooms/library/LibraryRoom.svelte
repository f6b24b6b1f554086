<script lang="ts">
  import { Tabs } from "bits-ui";
  import { libraryQuery } from "../../lib/api/queries";
  import { fromAddress, toAddress } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import Bin from "./Bin.svelte";
  import BrushShelf from "./BrushShelf.svelte";
  import ClassLimits from "./ClassLimits.svelte";
  import PaintShelf from "./PaintShelf.svelte";
  import PaperShelf from "./PaperShelf.svelte";
  import PigmentList from "./PigmentList.svelte";
  import TargetShelf from "./TargetShelf.svelte";

  const library = libraryQuery();
  const parts = [
    { id: "paints", title: "Paints", shelf: PaintShelf },
    { id: "pigments", title: "Pigments", shelf: PigmentList },
    { id: "papers", title: "Papers", shelf: PaperShelf },
    { id: "brushes", title: "Brushes", shelf: BrushShelf },
    { id: "targets", title: "Reference targets", shelf: TargetShelf },
    { id: "classes", title: "Classes", shelf: null },
    { id: "bin", title: "Bin", shelf: null },
  ];
  const asked = $derived(fromAddress("show"));
  // A mistyped address shows the paints, not an empty room.
  const show = $derived(parts.find((part) => part.id === asked)?.id ?? "paints");
</script>

<Room title="Library" subtitle="What is on the shelf: what labels say, and what captures have shown.">
  {#snippet actions()}
    <Button href="/library/spreadsheet">Bring in a spreadsheet</Button>
    <Button href="/api/paints.csv" download>Paints as CSV</Button>
    <Button href="/api/paints.json" download>as JSON</Button>
  {/snippet}
  {#if library.error}<Notice kind="problem">{library.error.message}</Notice>{/if}
  <Tabs.Root
    value={show}
    onValueChange={(value) => {
      toAddress("show", value === "paints" ? null : value);
    }}
  >
    <Tabs.List class="mb-3 flex gap-1" aria-label="Parts of the library">
      {#each parts as part (part.id)}
        <Tabs.Trigger
          value={part.id}
          class="border-hairline data-[state=active]:bg-ink data-[state=active]:text-paper border px-4 py-1"
          >{part.title}</Tabs.Trigger
        >
      {/each}
    </Tabs.List>
    {#if library.data}
      {#each parts as part (part.id)}
        <Tabs.Content value={part.id}>
          {#if part.id === show}
            {#if part.shelf}<part.shelf library={library.data} />{:else if part.id === "classes"}<ClassLimits
              />{:else}<Bin />{/if}
          {/if}
        </Tabs.Content>
      {/each}
    {/if}
  </Tabs.Root>
</Room>
