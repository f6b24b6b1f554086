<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap } from "../../lib/api/client";
  import { libraryQuery } from "../../lib/api/queries";
  import { navigate } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { PlanDraft } from "./plan.svelte";
  import PlanForm from "./PlanForm.svelte";

  const library = libraryQuery();
  const queries = useQueryClient();
  const draft = new PlanDraft();
  let problem = $state("");

  async function plan(): Promise<void> {
    problem = "";
    try {
      const session = await unwrap(client.POST("/api/sessions", { body: draft.plan }));
      await queries.invalidateQueries({ queryKey: ["overview"] });
      const first = session.cards[0];
      if (first) await navigate("/card/:card", { params: { card: first.card_id } });
      else await navigate("/ask/:session", { params: { session: String(session.id) } });
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
  }
</script>

<Room title="Ask" subtitle="What do you want to know, and which paints could tell?">
  {#snippet actions()}
    <Button primary onclick={() => void plan()} disabled={!draft.name.trim() || !draft.question}
      >Lay out the cards</Button
    >
  {/snippet}
  {#if problem}<div class="mb-3"><Notice kind="problem">{problem}</Notice></div>{/if}
  {#if library.data}<PlanForm {draft} library={library.data} />{:else if library.error}
    <Notice kind="problem">{library.error.message}</Notice>
  {/if}
</Room>
