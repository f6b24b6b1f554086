<script lang="ts">
  import type { Paint } from "../../lib/api/client";
  import type { LayoutDocument, SwatchFigures } from "../../lib/api/measurement";
  import { figureRows, figureText } from "../../lib/figures";

  interface Props {
    swatch: string;
    figures: SwatchFigures;
    paint: Paint | undefined;
    layout: LayoutDocument;
    selected: string | null;
    onchoose: (zone: string) => void;
  }
  let { swatch, figures, paint, layout, selected, onchoose }: Props = $props();
  const zoneOf = (kind: string) =>
    layout.zones.find((z) => z.kind === kind && (z.swatch === swatch || z.id === `${swatch}.${kind}`))?.id;
</script>

<section aria-label="Figures of {swatch}" class="mt-3">
  <h2>
    {#if paint}<a href="/library/{paint.id}">{paint.name}</a>
      <span class="text-faint font-sans text-xs">{paint.maker} · {paint.pigments.join(" ")}</span>
    {:else}{swatch}{/if}
  </h2>
  <table class="w-full">
    <tbody>
      {#each figureRows(figures) as row (row.key)}
        {@const zone = zoneOf(row.zone)}
        <tr class="border-strip border-t">
          <th scope="row" class="text-faint py-0.5 pr-2 text-left font-normal">{row.title}</th>
          <td class="py-0.5 text-right">
            {#if row.absent}
              <span class="border-hairline border border-dashed px-1 text-xs">{row.absent}</span>
            {:else if zone}
              <button
                class="underline decoration-dotted underline-offset-4 {zone === selected ? 'font-semibold' : ''}"
                title="Show the {row.zone} zone that this came from"
                onclick={() => onchoose(zone)}
              >
                {figureText(row)}
              </button>
            {:else}{figureText(row)}{/if}
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
</section>
