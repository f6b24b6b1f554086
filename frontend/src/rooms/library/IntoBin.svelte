<script lang="ts">
  import { client, unwrap } from "../../lib/api/client";
  import type { Attempt } from "../../lib/attempt.svelte";

  interface Props {
    kind: "papers" | "brushes" | "targets";
    row: { id: number; name: string };
    attempt: Attempt;
  }
  let { kind, row, attempt }: Props = $props();
  const putAway = () =>
    attempt.run(
      () => unwrap(client.POST("/api/library/{kind}/{row_id}/bin", { params: { path: { kind, row_id: row.id } } })),
      "bin",
      "library",
    );
</script>

<button class="underline" title="Put {row.name} into the bin" onclick={() => void putAway()}>Into the bin</button>
