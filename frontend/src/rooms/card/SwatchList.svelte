<script lang="ts">
  import type { Card, Library } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";

  interface Props {
    card: Card;
    library: Library | undefined;
    /** Places may still be changed by reordering the session's paints. */
    reorder: ((paint: number, by: number) => void) | null;
    onswap: (one: string, two: string) => void;
    onname: (swatch: string, paint: number | null) => void;
  }
  let { card, library, reorder, onswap, onname }: Props = $props();
  const swatches = $derived((card.layout.swatches as { id: string; label: string }[]).map((s) => s.id));
  let open = $state("");
</script>

<ol class="divide-strip divide-y" aria-label="Swatches">
  {#each swatches as swatch (swatch)}
    {@const paint = card.paints[swatch]}
    <li class="py-1.5">
      <div class="flex items-center gap-2">
        <span class="text-faint w-7">{swatch}</span>
        <button
          class="flex-1 text-left leading-tight"
          aria-expanded={open === swatch}
          title="Name it anew, or swap it with another"
          onclick={() => (open = open === swatch ? "" : swatch)}
        >
          {#if paint}
            <span class="font-serif">{paint.name}</span><br />
            <span class="text-faint text-xs">{paint.maker} · {paint.pigments.join(" ")}</span>
          {:else}
            <span class="text-faint font-serif">not named yet</span>
          {/if}
        </button>
        {#if reorder && paint}
          <button
            class="border-hairline border px-2"
            aria-label="Move {paint.name} up"
            onclick={() => {
              reorder(paint.id, -1);
            }}>↑</button
          >
          <button
            class="border-hairline border px-2"
            aria-label="Move {paint.name} down"
            onclick={() => {
              reorder(paint.id, 1);
            }}>↓</button
          >
        {/if}
      </div>
      {#if open === swatch}
        <div class="mt-1 space-y-1 pl-9">
          <span class="text-faint text-xs">What was painted here</span>
          <Choice
            label="Paint of {swatch}"
            value={paint ? String(paint.id) : ""}
            options={[
              { value: "", label: "not named" },
              ...(library?.paints ?? []).map((p) => ({ value: String(p.id), label: `${p.name} · ${p.maker}` })),
            ]}
            onchange={(value) => {
              onname(swatch, value === "" ? null : Number(value));
            }}
          />
          <span class="text-faint text-xs">Painted in each other's place with</span>
          <Choice
            label="Swap {swatch} with"
            value=""
            options={swatches
              .filter((s) => s !== swatch)
              .map((s) => ({ value: s, label: `${s} ${card.paints[s]?.name ?? ""}` }))}
            onchange={(value) => {
              onswap(swatch, value);
            }}
          />
        </div>
      {/if}
    </li>
  {/each}
</ol>
