<script lang="ts">
  import type { Pair, Swatch } from "../../lib/api/client";
  import { unbroken } from "../../lib/format";
  import { differenceText, doubtText } from "./compare";

  interface Props {
    pair: Pair;
    swatches: readonly Swatch[];
  }
  let { pair, swatches }: Props = $props();
  const name = (id: number) => {
    const paint = swatches.find((s) => s.paint.id === id)?.paint;
    const twin = swatches.some((s) => s.paint.id !== id && s.paint.name === paint?.name);
    return paint ? (twin ? `${paint.name} (${paint.maker})` : paint.name) : "";
  };
  const chief = $derived(pair.differences.filter((d) => d.chief));
  const others = $derived(pair.differences.filter((d) => !d.chief));
  const places: Record<string, string> = {
    masstone: "masstone",
    half: "half tint",
    wash: "wash",
    path: "mean of the path",
  };
</script>

{#snippet rows(differences: Pair["differences"])}
  {#each differences as d (d.key)}
    <tr class="border-strip border-t {d.real ? '' : 'hatched'}" title={doubtText(d)}>
      <th scope="row" class="text-faint py-0.5 text-left font-normal">{d.title}</th>
      <td class="py-0.5 text-right whitespace-nowrap">{differenceText(d)}</td>
    </tr>
  {/each}
{/snippet}

<section data-testid="pair">
  <p class="font-serif text-base leading-snug">
    <b class="font-semibold">{name(pair.second)}</b> against <b class="font-semibold">{name(pair.first)}</b>:
    {pair.phrases.length ? unbroken(pair.phrases.map((p) => p.text).join("; ") + ".") : "no difference that is real."}
  </p>
  {#if pair.obstacles.some((o) => o.weight !== "notes")}
    <ul class="border-ink mt-1 border-l-4 pl-2 text-xs" aria-label="What stands between them">
      {#each pair.obstacles.filter((o) => o.weight !== "notes") as obstacle (obstacle.sentence)}
        <li>{obstacle.weight === "forbids" ? "✕" : "△"} {obstacle.sentence}</li>
      {/each}
    </ul>
  {/if}
  <table class="mt-2 w-full" aria-label="Differences in figures">
    <tbody>
      {#each pair.distances as d (d.place)}
        <tr
          class="border-strip border-t {d.real ? '' : 'hatched'}"
          title={d.real ? "" : "not real: within twice its uncertainty"}
        >
          <th scope="row" class="text-faint py-0.5 text-left font-normal">{places[d.place] ?? d.place}</th>
          <td class="py-0.5 text-right"
            >{d.de00 === null ? "absent" : `${d.de00.toFixed(1)} ± ${d.u?.toFixed(1) ?? "?"} ΔE00`}</td
          >
        </tr>
      {/each}
      {@render rows(chief)}
    </tbody>
  </table>
  {#if others.length}
    <details class="border-strip border-t py-0.5">
      <summary class="cursor-pointer"
        >{others.length} more figures, {others.filter((d) => d.real).length} of them real</summary
      >
      <table class="w-full" aria-label="More differences in figures">
        <tbody>{@render rows(others)}</tbody>
      </table>
    </details>
  {/if}
  {#if pair.obstacles.some((o) => o.weight === "notes")}
    <p class="text-faint mt-1 text-xs">
      {pair.obstacles
        .filter((o) => o.weight === "notes")
        .map((o) => o.sentence)
        .join(" ")}
    </p>
  {/if}
  <p class="text-faint mt-1 text-xs">
    Second less first. Hatched rows are not real: within twice their combined uncertainty.
  </p>
</section>
