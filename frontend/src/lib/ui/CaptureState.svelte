<script lang="ts">
  import type { Capture } from "../api/client";
  import ProgressBar from "./ProgressBar.svelte";

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
    <ProgressBar label="Measuring" share={capture.share} />
  </div>
{:else if capture.state === "done"}
  <p class="text-xs">
    {worst === "pass"
      ? "✓ measured, every gate passed"
      : worst === "warn"
        ? "△ measured, with a warning"
        : "✕ measured, a gate failed"}
  </p>
{:else if capture.state === "incomplete"}
  <p class="text-xs">○ {capture.message}</p>
{:else}
  <p class="text-xs">✕ {words[capture.state] ?? capture.state}: {capture.message}</p>
{/if}
