<script lang="ts">
  import { Progress } from "bits-ui";
  import type { Capture } from "../api/client";

  interface Props {
    capture: Capture;
  }
  let { capture }: Props = $props();
  const worst = $derived(
    capture.gates.some((g) => g.state === "fail")
      ? "fail"
      : capture.gates.some((g) => g.state === "warn")
        ? "warn"
        : "pass",
  );
  const words: Record<string, string> = {
    queued: "waiting for its turn",
    cancelled: "cancelled",
    failed: "not measured",
  };
</script>

{#if capture.state === "running" || capture.state === "queued"}
  <div>
    <p class="text-xs">{words[capture.state] ?? capture.stage}</p>
    <Progress.Root
      value={Math.round(capture.share * 100)}
      max={100}
      aria-label="Measuring"
      class="border-ink bg-paper h-2 border"
    >
      <div class="bg-ink h-full" style:width="{capture.share * 100}%"></div>
    </Progress.Root>
  </div>
{:else if capture.state === "done"}
  <p class="text-xs">
    {worst === "pass"
      ? "✓ measured, every gate passed"
      : worst === "warn"
        ? "△ measured, with a warning"
        : "✕ measured, a gate failed"}
  </p>
{:else}
  <p class="text-xs">✕ {words[capture.state] ?? capture.state}: {capture.message}</p>
{/if}
