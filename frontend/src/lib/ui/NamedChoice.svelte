<script lang="ts">
  import type { ComponentProps } from "svelte";
  import Choice from "./Choice.svelte";

  /** A choice with its label written above it, or more words than that. */
  interface Props extends Omit<ComponentProps<typeof Choice>, "compact"> {
    words?: string;
  }
  let { value = $bindable(), label, words = label, ...rest }: Props = $props();
</script>

<div>
  <span class="text-faint text-xs">{words}</span>
  <Choice bind:value {label} {...rest} />
</div>
