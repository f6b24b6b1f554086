<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Plan } from "../../lib/api/client";
  import { libraryQuery, previewQuery } from "../../lib/api/queries";
  import { navigate, route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { forget, keep, kept } from "../../lib/kept";
  import { isPlan, PlanDraft } from "./plan.svelte";
  import PlanForm from "./PlanForm.svelte";
  import PlanPreview from "./PlanPreview.svelte";

  const asked = $derived(route.getParams("/ask/new/:question").question);
  const place = $derived(`plan-${asked}`);
  const library = libraryQuery();
  const question = $derived(library.data?.questions.find((q) => q.id === asked));
  const queries = useQueryClient();
  const draft = new PlanDraft();
  const preview = previewQuery(() => ({ ...draft.plan, name: "plan", note: "", practice: {} }));
  let problem = $state("");
  let begun = $state(false);

  $effect(() => {
    if (question && library.data && !begun) {
      const left = kept(place, isPlan);
      if (left) draft.write(left);
      else draft.begin(question, library.data);
      begun = true;
    }
  });
  // Every keystroke is kept on this machine until the session is: a reload or a crash loses nothing.
  $effect(() => {
    if (begun) keep(place, draft.plan);
  });

  async function plan(): Promise<void> {
    problem = "";
    try {
      const session = await unwrap(client.POST("/api/sessions", { body: draft.plan }));
      forget(place);
      begun = false;
      await queries.invalidateQueries({ queryKey: ["overview"] });
      const first = session.cards[0];
      if (first) await navigate("/card/:card", { params: { card: first.card_id } });
      else await navigate("/ask/:session", { params: { session: String(session.id) } });
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
  }
  function startAnew(): void {
    if (!question || !library.data) return;
    forget(place);
    draft.write(new PlanDraft().plan as Required<Plan>);
    draft.begin(question, library.data);
  }
</script>

<Room
  title={question?.text ?? "Ask"}
  subtitle={question ? `Lays side by side ${question.beside}. Tells ${question.answer}.` : ""}
>
  {#snippet actions()}
    <Button onclick={startAnew}>Start anew</Button>
    <Button primary onclick={() => void plan()} disabled={!draft.name.trim() || (preview.data?.cards.length ?? 0) === 0}
      >Lay out the cards</Button
    >
  {/snippet}
  {#snippet notebook()}<PlanPreview
      preview={preview.data}
      fault={preview.error?.message}
      library={library.data}
    />{/snippet}
  {#if problem}<div class="mb-3"><Notice kind="problem">{problem}</Notice></div>{/if}
  {#if library.data && question && begun}
    <PlanForm
      {draft}
      library={library.data}
      preview={preview.data}
      starting
      onproblem={(sentence) => (problem = sentence)}
    />
  {:else if library.data && !question}
    <Notice kind="problem">There is no such question; <a href="/ask">choose one of the eleven</a>.</Notice>
  {:else if library.error}
    <Notice kind="problem">{library.error.message}</Notice>
  {/if}
</Room>
