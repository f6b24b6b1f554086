<script lang="ts">
  import type { Snippet } from "svelte";

  interface Props {
    label: string;
    accept: string;
    children: Snippet;
    onfiles: (files: FileList) => void;
  }
  let { label, accept, children, onfiles }: Props = $props();
</script>

<label
  class="border-ink bg-paper inline-flex min-h-8 cursor-pointer items-center border px-3 focus-within:outline-2 focus-within:outline-offset-2"
>
  {@render children()}
  <input
    type="file"
    class="sr-only"
    {accept}
    aria-label={label}
    onchange={(event) => {
      if (event.currentTarget.files) onfiles(event.currentTarget.files);
    }}
  />
</label>
