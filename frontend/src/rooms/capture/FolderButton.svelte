<script lang="ts">
  interface Props {
    onfiles: (files: FileList) => void;
  }
  let { onfiles }: Props = $props();
</script>

<label
  class="border-ink bg-paper inline-block cursor-pointer border px-3 py-1 focus-within:outline-2 focus-within:outline-offset-2"
>
  A whole folder
  <input
    type="file"
    webkitdirectory
    multiple
    class="sr-only"
    aria-label="A whole folder of scans"
    onchange={(event) => {
      if (event.currentTarget.files) onfiles(event.currentTarget.files);
    }}
  />
</label>
