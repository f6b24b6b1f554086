<script lang="ts">
  import { Dialog } from "bits-ui";
  import { searchQuery } from "../api/queries";

  interface Props {
    open: boolean;
  }
  let { open = $bindable() }: Props = $props();
  let words = $state("");
  const found = searchQuery(() => words);
  const hits = $derived(words.trim() ? (found.data ?? []) : []);
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
    <Dialog.Content class="border-ink bg-paper fixed top-16 left-1/2 z-50 w-[40rem] -translate-x-1/2 border p-5">
      <Dialog.Title class="mb-2 font-serif text-lg">Search everything that was written</Dialog.Title>
      <input
        type="text"
        aria-label="Words to search for"
        placeholder="a paint, a card, a note"
        bind:value={words}
        autocomplete="off"
      />
      <ul class="divide-strip mt-2 max-h-[26rem] divide-y overflow-y-auto" aria-label="Found">
        {#each hits as hit, index (index)}
          <li>
            <a href={hit.url} class="hover:bg-margin block px-1 py-1.5 no-underline" onclick={() => (open = false)}>
              <span class="text-faint float-right text-xs">{hit.kind}</span>
              <span class="font-serif">{hit.title}</span>
              <span class="text-faint block truncate text-xs">{hit.excerpt}</span>
            </a>
          </li>
        {:else}
          {#if words.trim() && found.isFetched}<li class="text-faint py-2">
              Nothing that was written holds these words.
            </li>{/if}
        {/each}
      </ul>
      <Dialog.Close class="border-ink mt-3 border px-3 py-1">Close</Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
