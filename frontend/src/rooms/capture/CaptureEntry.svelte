<script lang="ts">
  import type { Capture } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import CaptureState from "../../lib/ui/CaptureState.svelte";

  interface Props {
    capture: Capture;
    oncancel: () => void;
    onagain: () => void;
  }
  let { capture, oncancel, onagain }: Props = $props();
  const busy = $derived(capture.state === "queued" || capture.state === "running");
  const mark: Record<string, string> = { pass: "✓", warn: "△", fail: "✕" };
  const title: Record<string, string> = {
    tags: "tags",
    "fall-off": "even light",
    "paper-shade": "paper shade",
    state: "dry",
  };
</script>

<li class="bg-paper grid grid-cols-[10rem_minmax(0,1fr)_auto] gap-4 p-4">
  <div class="bg-margin aspect-[210/148] overflow-hidden">
    {#if capture.measured}
      <a href="/look/{capture.id}"
        ><img
          src="/api/captures/{capture.id}/card.jpg"
          alt="Capture {capture.id}, calibrated"
          class="h-full w-full object-cover"
        /></a
      >
    {/if}
  </div>
  <div class="min-w-0">
    <p class="truncate">
      <span class="font-serif">{capture.file ?? "from the simulated flatbed"}</span>
      <span class="text-faint text-xs">number {capture.id}</span>
    </p>
    <CaptureState {capture} />
    {#if capture.gates.length}
      <ul class="mt-2 flex flex-wrap gap-x-4 gap-y-0.5 text-xs" aria-label="Gates">
        {#each capture.gates as gate (gate.id)}
          <li class={gate.state === "pass" ? "text-faint" : "font-semibold"}>
            <span aria-label={gate.state}>{mark[gate.state]}</span>
            {title[gate.id] ?? gate.id}
          </li>
        {/each}
      </ul>
      {#each capture.gates.filter((g) => g.state !== "pass") as gate (gate.id)}
        <p class="mt-1 font-serif">{gate.advice}</p>
      {/each}
    {/if}
  </div>
  <div class="flex flex-col items-stretch gap-2">
    {#if capture.measured}<Button href="/look/{capture.id}" primary>Look</Button>{/if}
    {#if busy}<Button onclick={oncancel}>Cancel</Button>{:else}<Button onclick={onagain}>Run again</Button>{/if}
    {#if capture.sha256}<a class="text-xs underline" href="/api/captures/{capture.id}/original" download>Original</a
      >{/if}
  </div>
</li>
