<script lang="ts">
  import type { Library, Preview } from "../../lib/api/client";
  import { minutesInWords } from "../../lib/format";
  import CardSheet from "../card/CardSheet.svelte";

  interface Props {
    preview: Preview | undefined;
    /** Why the server could not even read the plan. */
    fault: string | undefined;
    library: Library | undefined;
  }
  let { preview, fault, library }: Props = $props();
  const byId = $derived(new Map((library?.paints ?? []).map((p) => [p.id, p])));
  const paper = (id: number | null) => library?.papers.find((p) => p.id === id)?.name;

  /** With its maker where two paints share a name. */
  function name(id: number): string {
    const paint = byId.get(id);
    const twin = (preview?.painting_order ?? []).some((o) => o !== id && byId.get(o)?.name === paint?.name);
    return paint ? (twin ? `${paint.name} (${paint.maker})` : paint.name) : "";
  }

  function named(paints: Record<string, number>) {
    return Object.fromEntries(
      Object.entries(paints).flatMap(([swatch, id]) => {
        const paint = byId.get(id);
        return paint ? [[swatch, paint]] : [];
      }),
    );
  }
</script>

<h2 class="mb-1">What it comes to</h2>
{#if fault ?? preview?.problem}
  <p class="font-serif" role="status">{fault ?? preview?.problem}</p>
{:else if preview && preview.cards.length}
  <dl class="grid grid-cols-[7rem_1fr]" aria-label="Effort">
    <dt class="text-faint">cards</dt>
    <dd>
      {preview.effort.cards}, with {preview.effort.swatches}
      {preview.effort.swatches === 1 ? "swatch" : "swatches"}
    </dd>
    <dt class="text-faint">at the bench</dt>
    <dd>about {minutesInWords(preview.effort.minutes)}</dd>
    <dt class="text-faint">drying</dt>
    <dd>about {minutesInWords(preview.effort.waiting)}</dd>
    <dt class="text-faint">paint</dt>
    <dd>about {preview.effort.paint_ml.toFixed(1)} ml in all</dd>
    <dt class="text-faint">paper</dt>
    <dd>{(preview.effort.paper_m2 * 10_000).toFixed(0)} cm²</dd>
  </dl>
  <ol class="mt-3 grid grid-cols-2 gap-2" aria-label="Cards">
    {#each preview.cards as card (card.number)}
      <li>
        <CardSheet layout={card.layout as never} paints={named(card.paints)} />
        <span class="text-faint text-xs">{card.number}{paper(card.paper) ? ` · ${paper(card.paper) ?? ""}` : ""}</span>
      </li>
    {/each}
  </ol>
  <h2 class="mt-4 mb-1">Painted in this order</h2>
  <p class="font-serif">{preview.painting_order.map(name).join(", ")}.</p>
  <p class="text-faint text-xs">Light and clean before dark and staining; sparkling last and apart.</p>
  {#if preview.cautions.length}
    <h2 class="mt-4 mb-1">Caution</h2>
    <ul class="list-disc space-y-1 pl-4 font-serif">
      {#each preview.cautions as caution (caution)}<li>{caution}</li>{/each}
    </ul>
  {/if}
{:else}
  <p class="font-serif">Choose a paint, and its cards lie here with what they need.</p>
{/if}
