<script lang="ts">
  import { Dialog } from "bits-ui";
  import { keys } from "../keys";

  interface Props {
    open: boolean;
  }
  let { open = $bindable() }: Props = $props();
</script>

<Dialog.Root bind:open>
  <Dialog.Portal>
    <Dialog.Overlay class="fixed inset-0 z-40 bg-black/40" />
    <Dialog.Content class="border-ink bg-paper fixed top-24 left-1/2 z-50 w-[30rem] -translate-x-1/2 border p-6">
      <Dialog.Title class="mb-3 font-serif text-lg">Keys</Dialog.Title>
      <dl class="grid grid-cols-[7rem_1fr] gap-y-1">
        {#each keys as key (key.does)}
          <dt><kbd class="border-hairline border px-1.5">{key.press}</kbd></dt>
          <dd>{key.does}</dd>
        {/each}
      </dl>
      <Dialog.Close class="border-ink mt-4 border px-3 py-1">Close</Dialog.Close>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>
