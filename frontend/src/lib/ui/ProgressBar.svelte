<script lang="ts">
  import { Progress } from "bits-ui";

  interface Props {
    label: string;
    /** 0 to 1. */
    share: number;
    narrow?: boolean;
  }
  let { label, share, narrow = false }: Props = $props();
</script>

<Progress.Root
  value={Math.round(share * 100)}
  max={100}
  aria-label={label}
  class="border-ink bg-paper h-2 border {narrow ? 'inline-block w-40 align-middle' : ''}"
>
  <div class="bg-ink h-full" style:width="{share * 100}%"></div>
</Progress.Root>
