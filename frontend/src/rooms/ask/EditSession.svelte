<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, Refusal, unwrap, type Session } from "../../lib/api/client";
  import { libraryQuery, sessionQuery } from "../../lib/api/queries";
  import { isTyping } from "../../lib/keys";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { PlanDraft } from "./plan.svelte";
  import PlanForm from "./PlanForm.svelte";

  const id = $derived(Number(route.getParams("/ask/:session").session));
  const library = libraryQuery();
  const session = sessionQuery(() => id);
  const queries = useQueryClient();
  const draft = new PlanDraft();
  let problem = $state("");
  let changedElsewhere = $state(false);
  let saved = $state(false);

  // What comes first fills the page; what comes later must not overwrite what is being typed.
  $effect(() => {
    if (session.data && (draft.revision === 0 || session.data.id !== shownId)) show(session.data);
  });
  let shownId = 0;
  function show(data: Session): void {
    draft.take(data);
    shownId = data.id;
  }

  const captured = $derived(session.data?.cards.some((c) => c.captures.length > 0) ?? false);

  async function run(action: () => Promise<Session>): Promise<void> {
    problem = "";
    saved = false;
    try {
      const data = await action();
      queries.setQueryData(["session", id], data);
      show(data);
      changedElsewhere = false;
      saved = true;
      await queries.invalidateQueries({ queryKey: ["overview"] });
      await queries.invalidateQueries({ queryKey: ["card"] });
    } catch (refusal) {
      problem = (refusal as Error).message;
      changedElsewhere = refusal instanceof Refusal && refusal.code === "changed-elsewhere";
    }
  }
  const path = $derived({ params: { path: { session_id: id } } });
  const save = () =>
    run(() =>
      unwrap(
        client.PUT("/api/sessions/{session_id}", { ...path, body: { revision: draft.revision, plan: draft.plan } }),
      ),
    );
  const undo = () => run(() => unwrap(client.POST("/api/sessions/{session_id}/undo", path)));
  const redo = () => run(() => unwrap(client.POST("/api/sessions/{session_id}/redo", path)));

  async function takeTheirs(): Promise<void> {
    const { data } = await session.refetch();
    if (data) show(data);
    changedElsewhere = false;
    problem = "";
  }

  async function keepMine(): Promise<void> {
    const { data } = await session.refetch();
    if (data) draft.revision = data.revision;
    await save();
  }

  function onkeydown(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || isTyping(event)) return;
    if (event.key === "z" && session.data?.can_undo) void undo();
    if (event.key === "y" && session.data?.can_redo) void redo();
  }
</script>

<svelte:window {onkeydown} />
<Room title={session.data?.name ?? "Ask"} subtitle={session.data?.question_text}>
  {#snippet actions()}
    <Button onclick={() => void undo()} disabled={!session.data?.can_undo} title={session.data?.can_undo ?? ""}
      >Take back</Button
    >
    <Button onclick={() => void redo()} disabled={!session.data?.can_redo} title={session.data?.can_redo ?? ""}
      >Make again</Button
    >
    {#each session.data?.cards ?? [] as card (card.card_id)}
      <Button href="/card/{card.card_id}">Card {card.number}</Button>
    {/each}
    <Button primary onclick={() => void save()}>Keep the changes</Button>
  {/snippet}
  <div class="mb-3 space-y-2">
    {#if problem}<Notice kind="problem">{problem}</Notice>{/if}
    {#if changedElsewhere}
      <div class="flex gap-2">
        <Button onclick={() => void takeTheirs()}>Show the other version</Button>
        <Button onclick={() => void keepMine()}>Keep mine over it</Button>
      </div>
    {/if}
    {#if saved}<Notice>Kept.</Notice>{/if}
    {#if captured}<Notice>A card of this session was captured, so the order of its paints is fixed.</Notice>{/if}
    {#if session.error}<Notice kind="problem">{session.error.message}</Notice>{/if}
  </div>
  {#if library.data && session.data}<PlanForm {draft} library={library.data} fixed={captured} />{/if}
</Room>
