<script lang="ts">
  import type { Snippet } from "svelte";

  interface Props {
    title: string;
    subtitle?: string;
    actions?: Snippet;
    children: Snippet;
    notebook?: Snippet;
  }
  let { title, subtitle, actions, children, notebook }: Props = $props();
</script>

<svelte:head><title>{title} · Gelvet</title></svelte:head>
<div class="grid min-h-0 flex-1 {notebook ? 'grid-cols-[minmax(0,1fr)_336px]' : ''}">
  <main class="min-h-0 overflow-y-auto px-6 py-4">
    <header class="mb-3 flex flex-wrap items-end justify-between gap-3">
      <div class="min-w-56 flex-1">
        <h1>{title}</h1>
        {#if subtitle}<p class="text-faint font-serif">{subtitle}</p>{/if}
      </div>
      {#if actions}<div class="flex flex-wrap gap-2">{@render actions()}</div>{/if}
    </header>
    {@render children()}
  </main>
  {#if notebook}
    <aside aria-label="Margin notebook" class="border-hairline bg-margin min-h-0 overflow-y-auto border-l px-5 py-4">
      {@render notebook()}
    </aside>
  {/if}
</div>
