<script lang="ts">
  import type { Library } from "../../lib/api/client";

  interface Props {
    library: Library;
  }
  let { library }: Props = $props();
  let words = $state("");
  const listed = $derived(
    library.pigments.filter((p) => {
      const text = `${p.code} ${p.name} ${p.family} ${p.hue} ${p.character.join(" ")} ${p.metal ?? ""}`.toLowerCase();
      return words
        .toLowerCase()
        .split(/\s+/)
        .every((word) => text.includes(word));
    }),
  );
</script>

<label class="mb-2 block w-96">
  <span class="text-faint text-xs">Find by code, name, family or hue</span>
  <input type="text" bind:value={words} placeholder="granulating blue" />
</label>
<table class="bg-paper w-full text-left" aria-label="Pigments">
  <thead class="text-faint text-xs">
    <tr>
      {#each ["code", "pigment", "family", "hue", "usually", "holds", "paints here"] as head (head)}
        <th class="p-2 font-normal">{head}</th>
      {/each}
    </tr>
  </thead>
  <tbody>
    {#each listed as row (row.code)}
      {@const here = library.paints.filter((p) => p.pigments.some((c) => c.split(":")[0] === row.code))}
      <tr class="border-strip border-t">
        <th scope="row" class="p-2 font-semibold">{row.code}</th>
        <td class="p-2 font-serif">{row.name}</td>
        <td class="p-2">{row.family}</td>
        <td class="p-2">{row.hue}</td>
        <td class="p-2">{row.character.join(", ")}</td>
        <td class="p-2 {row.metal ? 'font-semibold' : ''}">{row.metal ?? ""}</td>
        <td class="p-2">
          {#each here as paint, index (paint.id)}{index ? ", " : ""}<a href="/library/{paint.id}">{paint.name}</a
            >{/each}
        </td>
      </tr>
    {/each}
  </tbody>
</table>
<p class="text-faint mt-2 text-xs">
  What a pigment usually does; grind, binder and maker change it. Where it holds a metal: never sand, spray or handle it
  dry without the maker's precautions; the label and its safety data sheet come first.
</p>
