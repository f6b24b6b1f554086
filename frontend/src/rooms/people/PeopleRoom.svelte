<script lang="ts">
  import { client, unwrap } from "../../lib/api/client";
  import { meQuery, peopleQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import NamedChoice from "../../lib/ui/NamedChoice.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const me = meQuery();
  const people = peopleQuery();
  const attempt = new Attempt();
  let fresh = $state({ name: "", password: "", role: "painter" });
  const roles = ["viewer", "painter", "analyst", "owner"].map((r) => ({ value: r, label: r }));

  const change = (user_id: number, body: { role?: string; active?: boolean }) =>
    attempt.run(() => unwrap(client.PUT("/api/people/{user_id}", { params: { path: { user_id } }, body })), "people");
  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (await attempt.run(() => unwrap(client.POST("/api/people", { body: fresh })), "people"))
      fresh = { name: "", password: "", role: "painter" };
  }
</script>

<Room title="People" subtitle="Who may look, paint, analyse, and keep this bench.">
  {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
  {#if me.data && !me.data.sign_in}
    <p class="bg-paper max-w-prose p-6 font-serif">
      This bench is for one person on this machine, so nobody signs in. To share it, start it with
      <code>gelvet serve --shared its-address</code>; then everybody signs in, and accounts are kept here.
    </p>
  {:else if people.error}
    <Notice kind="problem">{people.error.message}</Notice>
  {:else}
    <ul class="bg-paper divide-strip max-w-3xl divide-y" aria-label="People">
      {#each people.data ?? [] as person (person.id)}
        <li class="flex items-center gap-4 px-4 py-2">
          <span class="flex-1 font-serif {person.active ? '' : 'line-through'}">{person.name}</span>
          <Choice
            compact
            label="Role of {person.name}"
            value={person.role ?? ""}
            options={roles}
            onchange={(role) => void change(person.id, { role })}
          />
          <Button onclick={() => void change(person.id, { active: !person.active })}
            >{person.active ? "Let rest" : "Let in again"}</Button
          >
        </li>
      {/each}
    </ul>
    <form class="bg-paper mt-4 grid max-w-3xl grid-cols-4 items-end gap-2 p-4" onsubmit={add}>
      <label><span class="text-faint text-xs">Name</span><input type="text" bind:value={fresh.name} /></label>
      <label
        ><span class="text-faint text-xs">Password, ten signs or more</span><input
          type="password"
          autocomplete="new-password"
          bind:value={fresh.password}
        /></label
      >
      <NamedChoice label="Role" bind:value={fresh.role} options={roles} />
      <Button type="submit" primary>Add the account</Button>
    </form>
    <p class="text-faint mt-2 max-w-3xl text-xs">
      A viewer looks. A painter plans, paints and captures. An analyst also names papers and targets, moves zones and
      measures again. An owner also uses the bin and keeps the accounts.
    </p>
  {/if}
</Room>
