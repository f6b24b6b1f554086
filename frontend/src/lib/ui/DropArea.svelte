<script lang="ts">
  import type { Snippet } from "svelte";

  interface Props {
    label: string;
    children: Snippet;
    onfiles: (files: FileList) => void;
  }
  let { label, children, onfiles }: Props = $props();
  let over = $state(false);
</script>

<label
  class="block cursor-pointer border-2 border-dashed p-5 text-center focus-within:outline-2 focus-within:outline-offset-2 {over
    ? 'border-ink bg-paper'
    : 'border-hairline bg-margin'}"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    if (event.dataTransfer) onfiles(event.dataTransfer.files);
  }}
>
  {@render children()}
  <input
    type="file"
    multiple
    class="sr-only"
    aria-label={label}
    onchange={(event) => {
      if (event.currentTarget.files) onfiles(event.currentTarget.files);
    }}
  />
</label>
