<script lang="ts">
  import { Button } from "bits-ui";
  import type { Snippet } from "svelte";

  interface Props {
    children: Snippet;
    onclick?: () => void;
    href?: string;
    primary?: boolean;
    disabled?: boolean;
    title?: string;
    type?: "button" | "submit";
    download?: boolean;
  }
  let {
    children,
    onclick,
    href,
    primary = false,
    disabled = false,
    title,
    type = "button",
    download,
  }: Props = $props();
  const look =
    "inline-flex min-h-8 items-center gap-2 border border-ink px-3 py-1 no-underline disabled:border-hairline disabled:text-faint";
</script>

{#if href && !disabled}
  <Button.Root {href} {title} {download} class="{look} {primary ? 'bg-ink text-paper' : 'bg-paper'}"
    >{@render children()}</Button.Root
  >
{:else}
  <Button.Root
    {onclick}
    {disabled}
    {title}
    {type}
    class="{look} {primary ? 'bg-ink text-paper disabled:bg-strip' : 'bg-paper'}">{@render children()}</Button.Root
  >
{/if}
