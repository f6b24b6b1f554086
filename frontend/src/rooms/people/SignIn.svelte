<script lang="ts">
  import { csrfToken } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";

  interface Props {
    onentered: () => void;
  }
  let { onentered }: Props = $props();
  let username = $state("");
  let password = $state("");
  let problem = $state("");

  async function enter(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = "";
    const reply = await fetch("/_allauth/browser/v1/auth/login", {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
      body: JSON.stringify({ username, password }),
    }).catch(() => null);
    if (reply === null) problem = "Gelvet does not answer; is it still running?";
    else if (reply.ok) onentered();
    else if (reply.status === 429 || (await reply.text()).includes("too_many"))
      problem = "Too many attempts; wait ten minutes, then try again.";
    else problem = "That name and password do not belong together.";
  }
</script>

<svelte:head><title>Sign in · Gelvet</title></svelte:head>
<main class="grid h-screen place-items-center">
  <form class="bg-paper w-96 space-y-3 p-6" onsubmit={enter}>
    <h1>Gelvet</h1>
    <p class="font-serif">This bench is shared. Whoever keeps it makes accounts.</p>
    {#if problem}<Notice kind="problem">{problem}</Notice>{/if}
    <label class="block"
      ><span class="text-faint text-xs">Name</span><input
        type="text"
        autocomplete="username"
        bind:value={username}
      /></label
    >
    <label class="block"
      ><span class="text-faint text-xs">Password</span><input
        type="password"
        autocomplete="current-password"
        bind:value={password}
      /></label
    >
    <Button type="submit" primary>Sign in</Button>
  </form>
</main>
