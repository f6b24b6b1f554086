<script lang="ts">
  import { Router } from "sv-router";
  import { overviewQuery } from "./lib/api/queries";
  import { isTyping } from "./lib/keys";
  import { navigate, rooms, route } from "./lib/router";
  import Help from "./lib/ui/Help.svelte";

  const overview = overviewQuery();
  let helpOpen = $state(false);
  const here = $derived(route.pathname.split("/")[1] ?? "");

  function onkeydown(event: KeyboardEvent): void {
    if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "?") helpOpen = true;
    else if (event.key === "0") void navigate("/");
    else {
      const room = rooms[Number(event.key) - 1];
      if (room) void navigate(room.path);
    }
  }
</script>

<svelte:window {onkeydown} />
<div class="flex h-screen min-w-[1024px] flex-col">
  <nav aria-label="Rooms" class="border-hairline bg-strip flex items-stretch border-b">
    <a href="/" aria-current={here === "" ? "page" : undefined} class="px-6 py-2.5 font-serif text-lg no-underline"
      >Gelvet</a
    >
    <ol class="flex items-stretch">
      {#each rooms as room, index (room.id)}
        <li class="flex items-stretch">
          <a
            href={room.path}
            aria-current={here === room.id ? "page" : undefined}
            class="border-hairline aria-[current=page]:bg-surface flex items-baseline gap-2 border-l px-5 py-3 no-underline aria-[current=page]:font-semibold"
          >
            <span class="text-faint text-xs">{index + 1}</span>{room.title}
            {#if overview.data?.counts[room.id]}
              <span class="text-faint text-xs" title="waiting here">{overview.data.counts[room.id]}</span>
            {/if}
          </a>
        </li>
      {/each}
    </ol>
    <button class="text-faint ml-auto px-6" onclick={() => (helpOpen = true)}>Keys <kbd>?</kbd></button>
  </nav>
  <div class="flex min-h-0 flex-1 flex-col"><Router /></div>
</div>
<Help bind:open={helpOpen} />
