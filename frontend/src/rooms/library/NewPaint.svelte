<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Paint } from "../../lib/api/client";
  import Notice from "../../lib/ui/Notice.svelte";
  import type { PigmentList } from "../ask/plan.svelte";
  import type { PaintLabel } from "./paint-label";
  import PaintLabelForm from "./PaintLabelForm.svelte";

  interface Props {
    pigments: PigmentList;
    onadded: (paint: Paint) => void;
  }
  let { pigments, onadded }: Props = $props();
  const queries = useQueryClient();
  let problem = $state("");

  async function add(label: PaintLabel): Promise<boolean> {
    problem = "";
    try {
      const paint = await unwrap(client.POST("/api/paints", { body: label }));
      await queries.invalidateQueries({ queryKey: ["library"] });
      onadded(paint);
      return true;
    } catch (refusal) {
      problem = (refusal as Error).message;
      return false;
    }
  }
</script>

{#if problem}<Notice kind="problem">{problem}</Notice>{/if}
<PaintLabelForm {pigments} submit="Add the paint" onsubmit={add} />
