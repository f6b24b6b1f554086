<script lang="ts">
  import { libraryQuery } from "../../lib/api/queries";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const library = libraryQuery();
  const measured = $derived((library.data?.paints ?? []).filter((p) => p.measured));
  const others = $derived((library.data?.paints ?? []).filter((p) => !p.measured));
</script>

<Room title="Paint" subtitle="What was measured of each paint; figures, not labels.">
  {#if library.error}<Notice kind="problem">{library.error.message}</Notice>{/if}
  <ul class="grid grid-cols-3 gap-px xl:grid-cols-4">
    {#each measured as paint (paint.id)}
      <li class="bg-paper">
        <a href="/paint/{paint.id}" class="block no-underline">
          <img
            src="/api/paints/{paint.id}/strip"
            alt="Gradient of {paint.name}, as captured"
            class="block h-20 w-full object-cover"
          />
          <span class="block px-3 py-2 leading-tight">
            <span class="font-serif text-base">{paint.name}</span><br />
            <span class="text-faint text-xs">{paint.maker} · {paint.pigments.join(" ")} · {paint.form}</span>
          </span>
        </a>
      </li>
    {:else}
      <li class="bg-paper col-span-3 p-6">
        <p class="mb-3 font-serif">
          Measured paints will lie here, each with its dilution path and figures. A paint is measured when a card that
          holds it has been captured.
        </p>
        <Button href="/capture" primary>Capture a card</Button>
      </li>
    {/each}
  </ul>
  {#if others.length}
    <h2 class="mt-5 mb-1">Not measured yet</h2>
    <p class="font-serif">{others.map((p) => `${p.name} (${p.maker})`).join(", ")}</p>
  {/if}
</Room>
