<script lang="ts">
  import type { Snippet } from "svelte";

  interface Props {
    children: Snippet;
    kind?: "plain" | "problem";
  }
  let { children, kind = "plain" }: Props = $props();
</script>

<p
  role={kind === "problem" ? "alert" : "status"}
  class="bg-paper border-l-4 px-3 py-2 {kind === 'problem' ? 'border-ink font-medium' : 'border-hairline'}"
>
  {@render children()}
</p>
