<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, Refusal, unwrap, type Session } from "../../lib/api/client";
  import { libraryQuery, previewQuery, sessionQuery } from "../../lib/api/queries";
  import { forget, keep, kept } from "../../lib/kept";
  import { isTyping } from "../../lib/keys";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { isPlan, PlanDraft } from "./plan.svelte";
  import HistoryList from "../../lib/ui/HistoryList.svelte";
  import PlanForm from "./PlanForm.svelte";
  import PlanPreview from "./PlanPreview.svelte";

  const id = $derived(Number(route.getParams("/ask/:session").session));
  const library = libraryQuery();
  const session = sessionQuery(() => id);
  const queries = useQueryClient();
  const draft = new PlanDraft();
  const preview = previewQuery(() => ({ ...draft.plan, name: "plan", note: "", practice: {} }));
  let problem = $state("");
  let changedElsewhere = $state(false);
  let saved = $state(false);

  // What comes first fills the page; what comes later must not overwrite what is being typed.
  $effect(() => {
    if (session.data && (draft.revision === 0 || session.data.id !== shownId)) show(session.data);
  });
  let shownId = 0;
  let unkept = $state(false);
  /** What the server has; what was being written over it, and never kept, is put back on top. */
  function show(data: Session): void {
    draft.take(data);
    shownId = data.id;
    const left = kept(`session-${data.id}`, isPlan);
    unkept = left !== null;
    if (left) draft.write(left);
  }
  const asKept = $derived(session.data ? JSON.stringify(new PlanDraft(session.data).plan) : "");
  $effect(() => {
    const now = JSON.stringify(draft.plan);
    if (shownId !== id || asKept === "") return;
    if (now === asKept) forget(`session-${id}`);
    else keep(`session-${id}`, draft.plan);
  });
  function leaveIt(): void {
    forget(`session-${id}`);
    if (session.data) show(session.data);
  }

  const captured = $derived(session.data?.cards.some((c) => c.captures.length > 0) ?? false);

  async function run(action: () => Promise<Session>): Promise<void> {
    problem = "";
    saved = false;
    try {
      const data = await action();
      forget(`session-${id}`);
      queries.setQueryData(["session", id], data);
      show(data);
      changedElsewhere = false;
      saved = true;
      await queries.invalidateQueries({ queryKey: ["overview"] });
      await queries.invalidateQueries({ queryKey: ["card"] });
      await queries.invalidateQueries({ queryKey: ["history"] });
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

  const putAway = () =>
    run(() =>
      unwrap(
        session.data?.binned
          ? client.POST("/api/sessions/{session_id}/restore", path)
          : client.POST("/api/sessions/{session_id}/bin", path),
      ),
    );

  async function takeTheirs(): Promise<void> {
    const { data } = await session.refetch();
    forget(`session-${id}`);
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
    {#if session.data?.cards[0]}
      <Button href="/card/{session.data.cards[0].card_id}"
        >{session.data.cards.length === 1 ? "Its card" : `Its ${session.data.cards.length} cards`}</Button
      >
      {#if session.data.cards.some((c) => c.captures.some((x) => x.measured))}
        <Button href="/compare/{id}">The answer so far</Button>
      {/if}
    {/if}
    {#if session.data}
      <Button onclick={() => void putAway()}>{session.data.binned ? "Out of the bin" : "Into the bin"}</Button>
      <Button primary onclick={() => void save()}>Keep the changes</Button>
    {/if}
  {/snippet}
  {#snippet notebook()}
    {#if session.data}
      <PlanPreview preview={preview.data} fault={preview.error?.message} library={library.data} />
      <HistoryList of={{ session: id }} />
    {/if}
  {/snippet}
  <div class="mb-3 space-y-2">
    {#if problem}<Notice kind="problem">{problem}</Notice>{/if}
    {#if changedElsewhere}
      <div class="flex gap-2">
        <Button onclick={() => void takeTheirs()}>Show the other version</Button>
        <Button onclick={() => void keepMine()}>Keep mine over it</Button>
      </div>
    {/if}
    {#if unkept && !saved}
      <Notice
        >What you wrote here last was not kept yet; it is back on the page.
        <button class="underline" onclick={leaveIt}>Leave it</button></Notice
      >
    {/if}
    {#if saved}<Notice>Kept.</Notice>{/if}
    {#if session.data?.binned}<Notice>This session lies in the bin; nothing of it was erased.</Notice>{/if}
    {#if captured}<Notice>A card of this session was captured, so the order of its paints is fixed.</Notice>{/if}
    {#if session.error}<Notice kind="problem">{session.error.message}</Notice>{/if}
    {#if Number.isNaN(id)}<Notice kind="problem"
        >There is no such session; choose one on <a href="/">the bench</a>.</Notice
      >{/if}
  </div>
  {#if library.data && session.data}<PlanForm
      {draft}
      library={library.data}
      preview={preview.data}
      fixed={captured}
    />{/if}
</Room>
