<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Capture, type Device, type Light } from "../../lib/api/client";
  import { cardQuery, libraryQuery, sessionQuery } from "../../lib/api/queries";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import FileButton from "../../lib/ui/FileButton.svelte";
  import DropArea from "../../lib/ui/DropArea.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { isLooseSheet } from "../card/loose-sheet";
  import ShotLight from "./ShotLight.svelte";
  import UploadLines from "./UploadLines.svelte";
  import DevicePanel from "./DevicePanel.svelte";
  import CaptureEntry from "./CaptureEntry.svelte";
  import { Uploads } from "./uploads.svelte";

  const id = $derived(route.getParams("/capture/:card").card);
  const card = cardQuery(() => id);
  const library = libraryQuery();
  const session = sessionQuery(() => card.data?.session ?? 0);
  const loose = $derived(isLooseSheet(card.data?.layout));
  const queries = useQueryClient();
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["card", id] });
    void queries.invalidateQueries({ queryKey: ["session"] });
    void queries.invalidateQueries({ queryKey: ["overview"] });
  };
  let light = $state<Light>({ state: "dry", low_lamp: false, beside: false, azimuth_deg: null, elevation_deg: null });
  const uploads = new Uploads(
    () => id,
    () => light,
    refresh,
  );
  let problem = $state("");
  async function act(action: Promise<unknown>): Promise<void> {
    problem = "";
    try {
      await action;
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
    refresh();
  }
  const useDevice = (device: Device) =>
    act(unwrap(client.POST("/api/cards/{card_id}/device", { params: { path: { card_id: id } }, body: device })));
  const removeShot = (shot: number) =>
    act(unwrap(client.DELETE("/api/shots/{shot_id}", { params: { path: { shot_id: shot } } })));
  const on = (capture: Capture) => ({ params: { path: { capture_id: capture.id } } });
  const cancel = (capture: Capture) => act(unwrap(client.POST("/api/captures/{capture_id}/cancel", on(capture))));
  const runAgain = (capture: Capture) => act(unwrap(client.POST("/api/captures/{capture_id}/run-again", on(capture))));

  const undo = () =>
    act(
      unwrap(
        client.POST("/api/sessions/{session_id}/undo", { params: { path: { session_id: card.data?.session ?? 0 } } }),
      ),
    );

  async function takeReference(files: FileList): Promise<void> {
    const file = files[0];
    if (!file) return;
    const text = await file.text();
    await act(
      unwrap(client.PUT("/api/cards/{card_id}/reference", { params: { path: { card_id: id } }, body: { text } })),
    );
  }
  const giveTarget = (target: number) =>
    act(unwrap(client.PUT("/api/cards/{card_id}/reference", { params: { path: { card_id: id } }, body: { target } })));
</script>

<Room title="Capture" subtitle={card.data ? `${card.data.session_name}, card ${card.data.number} (${id})` : id}>
  {#snippet notebook()}
    {#if loose}
      <h2 class="mb-2">A sheet without a printed card</h2>
      <p class="mb-3 font-serif">
        It has one image, and no reference patches: colours rest on the file's own profile, or on the paper taken for
        white. Each figure says which.
      </p>
      <Button href="/card/{id}/sheet">Correct its zones</Button>
    {:else if card.data}
      <DevicePanel card={id} paintable={card.data.paintable} ontake={(device) => void useDevice(device)} />
      <h2 class="mt-6 mb-2">Reference target</h2>
      <p class="mb-2 font-serif">
        {card.data.has_reference
          ? card.data.target
            ? `On this card lies the target “${card.data.target}” of the library.`
            : "The target's measured values are known for this card."
          : "The printed patches are not trusted: add the target's measured CGATS file before a capture."}
      </p>
      <FileButton label="Reference file" accept=".txt,.cgats,.cie,.it8" onfiles={(files) => void takeReference(files)}>
        {card.data.has_reference ? "Replace the file" : "Add the file"}
      </FileButton>
      {#if library.data?.targets.length}
        <div class="mt-2">
          <span class="text-faint text-xs">or one of the library's targets</span>
          <Choice
            label="Target of the library"
            value=""
            options={library.data.targets.map((t) => ({ value: String(t.id), label: t.name }))}
            onchange={(value) => void giveTarget(Number(value))}
          />
        </div>
      {/if}
      {#if session.data?.can_undo?.startsWith("reference")}
        <p class="mt-2">
          <button class="underline" onclick={() => void undo()}>Take back: {session.data.can_undo}</button>
        </p>
      {/if}
    {/if}
  {/snippet}
  {#if problem}<div class="mb-3"><Notice kind="problem">{problem}</Notice></div>{/if}
  {#if card.error}<Notice kind="problem">{card.error.message}</Notice>{/if}
  {#if card.data && !loose}
    <DropArea label="Scans of this card" onfiles={(files) => void uploads.add(files)}>
      <span class="font-serif text-base">Drop scans or photographs of this card here, or choose files</span><br />
      <span class="text-faint text-xs"
        >TIFF, PNG, JPEG, WebP, HEIF or camera raw; a scan at 300 dpi or more, or a photograph square-on in even light;
        without automatic corrections. Your file is kept exactly as it is.</span
      >
    </DropArea>
    <ShotLight bind:value={light} />
    {#if card.data.lacks.length}
      <p class="mt-2 font-serif">Still lacks {card.data.lacks.join("; ")}.</p>
    {:else if card.data.would_tell.length}
      <p class="text-faint mt-2 font-serif">Lacks no shot. More would tell more: {card.data.would_tell.join("; ")}.</p>
    {/if}
    <UploadLines outcomes={uploads.outcomes} />
  {/if}
  {#if card.data}
    <h2 class="mt-5 mb-2">Captures of this card</h2>
    <ul class="space-y-3">
      {#each [...card.data.captures].reverse() as capture (capture.id)}
        <CaptureEntry
          {capture}
          sizeMm={card.data.layout.size_mm as [number, number]}
          oncancel={() => void cancel(capture)}
          onagain={() => void runAgain(capture)}
          onremove={(shot) => void removeShot(shot)}
        />
      {:else}
        <li class="text-faint font-serif">
          None yet. Captures will lie here, each with its gates and what to do about them.
        </li>
      {/each}
    </ul>
  {/if}
</Room>
