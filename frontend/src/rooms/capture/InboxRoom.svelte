<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import type { Light } from "../../lib/api/client";
  import { inboxQuery } from "../../lib/api/queries";
  import Button from "../../lib/ui/Button.svelte";
  import CaptureState from "../../lib/ui/CaptureState.svelte";
  import DropArea from "../../lib/ui/DropArea.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import FolderButton from "./FolderButton.svelte";
  import ShotLight from "./ShotLight.svelte";
  import UploadLines from "./UploadLines.svelte";
  import { Uploads } from "./uploads.svelte";

  const inbox = inboxQuery();
  const queries = useQueryClient();
  let light = $state<Light>({ state: "dry", low_lamp: false, beside: false, azimuth_deg: null, elevation_deg: null });
  const uploads = new Uploads(
    () => null,
    () => light,
    () => {
      for (const key of ["inbox", "overview", "card"]) void queries.invalidateQueries({ queryKey: [key] });
    },
  );
  const stages: Record<string, string> = {
    "dry and due": "Dry and due",
    "to be taken again": "To be taken again",
    "being measured": "Being measured",
    drying: "Drying",
    "being painted": "Being painted",
    "to paint": "Not painted here yet",
    measured: "Measured",
  };
  const at = (time: string) => new Date(time).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" });
</script>

<Room title="Capture" subtitle="Files find their own card by its printed code.">
  {#snippet notebook()}
    <h2 class="mb-1">Files as they came</h2>
    <ol class="space-y-2" role="log" aria-label="Files as they came">
      {#each inbox.data?.arrivals ?? [] as file, index (index)}
        <li>
          {#if file.card_id}
            <span class="font-serif break-all">{file.name}</span>
            <a href="/capture/{file.card_id}">{file.outcome}</a>
          {:else}
            {#if !file.outcome.startsWith(file.name)}<span class="font-serif break-all">{file.name}</span>{/if}
            <b class="font-semibold">{file.outcome}</b>
          {/if}
          <span class="text-faint block text-xs">{at(file.at)}</span>
        </li>
      {:else}
        <li class="text-faint">
          Each file that comes here gets a line: where it went, or why it could not go anywhere.
        </li>
      {/each}
    </ol>
  {/snippet}
  {#if inbox.error}<Notice kind="problem">{inbox.error.message}</Notice>{/if}
  <DropArea label="Scans of any cards" onfiles={(files) => void uploads.add(files)}>
    <span class="font-serif text-base">Drop scans of any cards here, or choose files</span><br />
    <span class="text-faint text-xs"
      >Hundreds at once, a zip of them, or one scan with several cards on it: each card's printed code says where it
      goes.</span
    >
  </DropArea>
  <ShotLight bind:value={light} />
  <p class="mt-2">
    <FolderButton onfiles={(files) => void uploads.add(files)} />
    <span class="text-faint text-xs"
      >or let <code>gelvet watch FOLDER</code> look after the folder that your scanner saves into</span
    >
  </p>
  <UploadLines outcomes={uploads.outcomes} />
  {#each Object.entries(stages) as [stage, title] (stage)}
    {@const cards = (inbox.data?.waiting ?? []).filter((w) => w.stage === stage)}
    {#if cards.length}
      <h2 class="mt-4 mb-1">{title} <span class="text-faint text-xs">{cards.length}</span></h2>
      <ul class="bg-paper divide-strip divide-y" aria-label={title}>
        {#each cards as card (card.card_id)}
          <li class="flex items-center gap-4 px-4 py-2">
            <span class="w-72">
              <span class="font-serif">{card.session}, card {card.number}</span><br />
              <span class="text-faint text-xs">{card.card_id}</span>
            </span>
            <span class="flex-1">
              {#if card.capture && stage !== "measured"}<CaptureState capture={card.capture} />{/if}
              {#if card.dry_at}dry at {at(card.dry_at)}{/if}
              {#if card.lacks.length}<span class="text-faint block text-xs">lacks {card.lacks.join("; ")}</span>{/if}
            </span>
            <Button href="/capture/{card.card_id}" primary={stage === "dry and due" || stage === "to be taken again"}
              >{stage === "measured" ? "Open" : stage === "to be taken again" ? "Take it again" : "Capture"}</Button
            >
          </li>
        {/each}
      </ul>
    {/if}
  {/each}
  {#if inbox.data?.waiting.length === 0}
    <p class="bg-paper mt-4 p-6 font-serif">No card is laid out yet. <a href="/ask">Ask a question</a> first.</p>
  {/if}
</Room>
