<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { Router } from "sv-router";
  import { csrfToken } from "./lib/api/client";
  import { meQuery, overviewQuery } from "./lib/api/queries";
  import { isTyping } from "./lib/keys";
  import { navigate, rooms, route } from "./lib/router";
  import Help from "./lib/ui/Help.svelte";
  import Search from "./lib/ui/Search.svelte";
  import TimerBar from "./lib/ui/TimerBar.svelte";
  import SignIn from "./rooms/people/SignIn.svelte";

  const me = meQuery();
  const queries = useQueryClient();
  const overview = overviewQuery();
  let helpOpen = $state(false);
  let searchOpen = $state(false);
  const here = $derived(route.pathname.split("/")[1] ?? "");
  const outside = $derived(me.data?.sign_in === true && me.data.name === "");

  function onkeydown(event: KeyboardEvent): void {
    if (outside || isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "?") helpOpen = true;
    else if (event.key === "/") {
      event.preventDefault();
      searchOpen = true;
    } else if (event.key === "0") void navigate("/");
    else if (event.key === "9") void navigate("/library");
    else {
      const room = rooms[Number(event.key) - 1];
      if (room) void navigate(room.path);
    }
  }
  async function leave(): Promise<void> {
    await fetch("/_allauth/browser/v1/auth/session", { method: "DELETE", headers: { "X-CSRFToken": csrfToken() } });
    await queries.resetQueries();
  }
</script>

<svelte:window {onkeydown} />
{#if outside}
  <SignIn onentered={() => void queries.resetQueries()} />
{:else}
  <div class="flex h-screen min-w-[1024px] flex-col">
    <nav aria-label="Rooms" class="border-hairline bg-strip flex items-stretch border-b">
      <a
        href="/"
        aria-current={here === "" ? "page" : undefined}
        class="px-5 py-2.5 font-serif text-lg no-underline"
        title="The bench: what waits where">Gelvet</a
      >
      <ol class="flex items-stretch">
        {#each rooms as room, index (room.id)}
          <li class="flex items-stretch">
            <a
              href={room.path}
              aria-current={here === room.id ? "page" : undefined}
              class="border-hairline aria-[current=page]:bg-surface flex items-baseline gap-2 border-l px-4 py-3 no-underline aria-[current=page]:font-semibold"
            >
              <span class="text-faint text-xs">{index + 1}</span>{room.title}
              {#if overview.data?.counts[room.id]}
                <span class="text-faint text-xs" title="waiting here">{overview.data.counts[room.id]}</span>
              {/if}
            </a>
          </li>
        {/each}
      </ol>
      <a
        href="/library"
        aria-current={here === "library" ? "page" : undefined}
        class="aria-[current=page]:bg-surface ml-auto flex items-center px-4 no-underline aria-[current=page]:font-semibold"
        >Library</a
      >
      <button class="flex items-center gap-1 px-3" onclick={() => (searchOpen = true)}
        >Search <kbd class="text-faint">/</kbd></button
      >
      {#if me.data?.sign_in}
        {#if me.data.role === "owner"}<a href="/people" class="flex items-center px-3 no-underline">People</a>{/if}
        <button class="px-3" onclick={() => void leave()} title="Signed in as {me.data.name}, {me.data.role}"
          >Leave</button
        >
      {/if}
      <button class="text-faint flex items-center gap-1 px-4" onclick={() => (helpOpen = true)}
        >Keys <kbd>?</kbd></button
      >
    </nav>
    <div class="flex min-h-0 flex-1 flex-col"><Router /></div>
    <TimerBar />
  </div>
  <Help bind:open={helpOpen} />
  <Search bind:open={searchOpen} />
{/if}
