<script lang="ts">
  import type { Capture } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import CaptureState from "../../lib/ui/CaptureState.svelte";
  import GatePicture from "./GatePicture.svelte";
  import { lampFrom } from "./sides";

  interface Props {
    capture: Capture;
    sizeMm: [number, number];
    oncancel: () => void;
    onagain: () => void;
    onremove: (shot: number) => void;
  }
  let { capture, sizeMm, oncancel, onagain, onremove }: Props = $props();
  const busy = $derived(capture.state === "queued" || capture.state === "running");
  const open = $derived(capture.gates.filter((g) => g.state !== "pass"));
  let pointed = $state<string | null>(null);
  const mark: Record<string, string> = { pass: "✓", warn: "△", fail: "✕" };
  const title: Record<string, string> = {
    tags: "tags",
    "fall-off": "even light",
    "paper-shade": "paper shade",
    flatness: "flat card",
    state: "dry",
    registration: "shots on each other",
    drift: "target as before",
  };
  const name = (id: string) => title[id] ?? id;
</script>

<li class="bg-paper grid grid-cols-[15rem_minmax(0,1fr)_auto] gap-4 p-4">
  <div class="bg-margin aspect-[210/148] self-start overflow-hidden">
    {#if capture.measured}<GatePicture {capture} {sizeMm} gate={pointed} />{/if}
  </div>
  <div class="min-w-0">
    <p class="truncate">
      <span class="font-serif"
        >{capture.file ??
          (capture.source === "file" ? "no flat shot yet" : `from the simulated ${capture.source}`)}</span
      >
      <span class="text-faint text-xs"
        >number {capture.id}{capture.paint_state === "dry" ? "" : `, ${capture.paint_state.replace("_", " ")}`}</span
      >
    </p>
    <CaptureState {capture} />
    {#if capture.shots.length}
      <ul class="mt-1 text-xs" aria-label="Other shots">
        {#each capture.shots as shot (shot.id)}
          <li>
            {shot.light === "rake"
              ? `◗ ${lampFrom(shot.azimuth_deg)}${shot.elevation_deg === null ? "" : `, ${shot.elevation_deg}° high`}`
              : "○ even light"}
            <span class="text-faint">{shot.file ?? "to be taken"}</span>
            <button class="underline" onclick={() => onremove(shot.id)}>take out</button>
          </li>
        {/each}
      </ul>
    {/if}
    {#if capture.gates.length}
      <ul class="mt-2 flex flex-wrap gap-x-4 gap-y-0.5 text-xs" aria-label="Gates">
        {#each capture.gates as gate (gate.id)}
          <li class={gate.state === "pass" ? "text-faint" : "font-semibold"}>
            <span aria-label={gate.state}>{mark[gate.state]}</span>
            {name(gate.id)}
          </li>
        {/each}
      </ul>
      {#each open as gate (gate.id)}
        <p class="mt-1 font-serif">
          {#if open.length > 1 && gate.where_mm?.length}
            <button
              class="underline"
              aria-pressed={pointed === gate.id}
              onclick={() => (pointed = pointed === gate.id ? null : gate.id)}>{name(gate.id)}:</button
            >
          {:else if open.length > 1}
            {name(gate.id)}:
          {/if}
          {gate.advice}
        </p>
      {/each}
    {/if}
    {#each capture.notes as note, index (index)}
      <p class="mt-1 font-serif">{note}</p>
    {/each}
  </div>
  <div class="flex flex-col items-stretch gap-2">
    {#if capture.measured}<Button href="/look/{capture.id}" primary>Look</Button>{/if}
    {#if busy}<Button onclick={oncancel}>Cancel</Button>{:else if capture.state !== "incomplete"}<Button
        onclick={onagain}>Run again</Button
      >{/if}
    {#if capture.sha256}<a class="text-xs underline" href="/api/captures/{capture.id}/original" download>Original</a
      >{/if}
  </div>
</li>
