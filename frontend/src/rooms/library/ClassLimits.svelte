<script lang="ts">
  import { createQuery } from "@tanstack/svelte-query";
  import { client, unwrap } from "../../lib/api/client";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";

  const limits = createQuery(() => ({
    queryKey: ["class-limits"],
    queryFn: () => unwrap(client.GET("/api/class-limits")),
  }));
  const attempt = new Attempt();
  const ladders = [
    {
      key: "veil" as const,
      title: "Hiding, by the veil over the ink line",
      names: ["transparent", "semi-transparent", "semi-opaque", "opaque"],
      usual: [5, 12, 30],
    },
    {
      key: "removed" as const,
      title: "Staining, by the share that a damp brush takes away",
      names: ["high staining", "medium staining", "low staining", "non-staining"],
      usual: [30, 60, 85],
    },
  ];
  let typed = $state<{ veil: (number | null)[]; removed: (number | null)[] } | null>(null);
  const shown = $derived(
    typed ?? {
      veil: (limits.data?.veil ?? []).map((v) => Math.round(v * 1000) / 10),
      removed: (limits.data?.removed ?? []).map((v) => Math.round(v * 1000) / 10),
    },
  );
  const change = (key: "veil" | "removed", place: number, value: string) =>
    (typed = {
      ...shown,
      [key]: shown[key].map((old, i) => (i === place ? (value === "" ? null : Number(value)) : old)),
    });
  const shares = (values: (number | null)[]) => values.map((v) => (v ?? -1) / 100);

  async function keep(body: { veil: number[]; removed: number[] }): Promise<void> {
    const done = await attempt.run(
      () => unwrap(client.PUT("/api/class-limits", { body })),
      "class-limits",
      "profile",
      "compare",
      "answer",
    );
    if (done) typed = null;
  }
</script>

{#if limits.error}<Notice kind="problem">{limits.error.message}</Notice>{/if}
{#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
{#if limits.data}
  <form
    class="bg-paper max-w-4xl p-4"
    onsubmit={(event) => {
      event.preventDefault();
      void keep({ veil: shares(shown.veil), removed: shares(shown.removed) });
    }}
  >
    <p class="mb-4 max-w-prose font-serif">
      Where this bench draws the lines between classes. The figures stay as they are measured; only their names change,
      everywhere at once.
    </p>
    {#each ladders as ladder (ladder.key)}
      <fieldset class="mb-4">
        <legend class="mb-1 font-serif text-base">{ladder.title}</legend>
        <div class="flex flex-wrap items-center gap-2">
          {#each ladder.names as name, place (name)}
            <span class="bg-strip px-2 py-1">{name}</span>
            {#if place < 3}
              <label
                ><input
                  aria-label="{ladder.names[place]} to {ladder.names[place + 1]}, %"
                  type="number"
                  step="0.1"
                  min="0"
                  max="100"
                  class="w-20"
                  value={shown[ladder.key][place]}
                  oninput={(event) => change(ladder.key, place, event.currentTarget.value)}
                /> %</label
              >
            {/if}
          {/each}
        </div>
        <p class="text-faint mt-1 text-xs">usual: {ladder.usual.join(", ")} %</p>
      </fieldset>
    {/each}
    <div class="flex gap-2">
      <Button type="submit" primary disabled={typed === null}>Keep these limits</Button>
      <Button onclick={() => void keep({ veil: [0.05, 0.12, 0.3], removed: [0.3, 0.6, 0.85] })}>The usual ones</Button>
    </div>
  </form>
{/if}
