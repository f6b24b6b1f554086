<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap, type Capture } from "../../lib/api/client";
  import { cardQuery, sessionQuery } from "../../lib/api/queries";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import FileButton from "../../lib/ui/FileButton.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import CaptureEntry from "./CaptureEntry.svelte";
  import { Uploads } from "./uploads.svelte";

  const id = $derived(route.getParams("/capture/:card").card);
  const card = cardQuery(() => id);
  const session = sessionQuery(() => card.data?.session ?? 0);
  const queries = useQueryClient();
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["card", id] });
    void queries.invalidateQueries({ queryKey: ["session"] });
    void queries.invalidateQueries({ queryKey: ["overview"] });
  };
  const uploads = new Uploads(() => id, refresh);
  let problem = $state("");
  let over = $state(false);
  let kind = $state("white-led");
  let dpi = $state("300");
  let tone = $state("srgb");

  async function act(action: Promise<unknown>): Promise<void> {
    problem = "";
    try {
      await action;
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
    refresh();
  }
  const useFlatbed = () =>
    act(
      unwrap(
        client.POST("/api/cards/{card_id}/flatbed", {
          params: { path: { card_id: id } },
          body: { kind, dpi: Number(dpi), tone, rotation_deg: 0.4 },
        }),
      ),
    );
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
  function drop(event: DragEvent): void {
    event.preventDefault();
    over = false;
    void uploads.add(event.dataTransfer?.files ?? []);
  }
</script>

<Room title="Capture" subtitle={card.data ? `${card.data.session_name}, card ${card.data.number} (${id})` : id}>
  {#snippet notebook()}
    <h2 class="mb-2">Simulated flatbed</h2>
    <p class="mb-2 font-serif">
      A stand-in for a scanner: it paints this card from the paints' own optics, scans it, and hands over a file like
      any other.
    </p>
    <div class="space-y-2">
      <div>
        <span class="text-faint text-xs">Lamp</span>
        <Choice
          label="Lamp"
          bind:value={kind}
          options={[
            { value: "white-led", label: "white LED, colour sensor" },
            { value: "three-led", label: "red, green and blue LED in turn" },
          ]}
        />
      </div>
      <div class="grid grid-cols-2 gap-2">
        <div>
          <span class="text-faint text-xs">Resolution</span>
          <Choice
            label="Resolution"
            bind:value={dpi}
            options={["150", "200", "300", "400", "600"].map((v) => ({ value: v, label: `${v} dpi` }))}
          />
        </div>
        <div>
          <span class="text-faint text-xs">Tone curve</span>
          <Choice
            label="Tone curve"
            bind:value={tone}
            options={["linear", "srgb", "gamma-1.8", "gamma-2.2"].map((v) => ({ value: v, label: v }))}
          />
        </div>
      </div>
      <Button onclick={() => void useFlatbed()} disabled={!card.data?.paintable}>Scan this card</Button>
      {#if card.data && !card.data.paintable}<p class="text-faint text-xs">
          A paint on this card has no simulated optics.
        </p>{/if}
    </div>
    <h2 class="mt-6 mb-2">Reference target</h2>
    <p class="mb-2 font-serif">
      {card.data?.has_reference
        ? "The target's measured values are known for this card."
        : "The printed patches are not trusted: add the target's measured CGATS file before a capture."}
    </p>
    <FileButton label="Reference file" accept=".txt,.cgats,.cie,.it8" onfiles={(files) => void takeReference(files)}>
      {card.data?.has_reference ? "Replace the file" : "Add the file"}
    </FileButton>
    {#if session.data?.can_undo?.startsWith("reference")}
      <p class="mt-2">
        <button class="underline" onclick={() => void undo()}>Take back: {session.data.can_undo}</button>
      </p>
    {/if}
  {/snippet}
  {#if problem}<div class="mb-3"><Notice kind="problem">{problem}</Notice></div>{/if}
  {#if card.error}<Notice kind="problem">{card.error.message}</Notice>{/if}
  <label
    class="block cursor-pointer border-2 border-dashed p-6 text-center focus-within:outline-2 focus-within:outline-offset-2 {over
      ? 'border-ink bg-paper'
      : 'border-hairline bg-margin'}"
    ondragover={(e) => {
      e.preventDefault();
      over = true;
    }}
    ondragleave={() => (over = false)}
    ondrop={drop}
  >
    <span class="font-serif text-base">Drop scans of this card here, or choose files</span><br />
    <span class="text-faint text-xs"
      >TIFF, PNG, JPEG or WebP; flat, dry, 300 dpi or more, without automatic corrections. Your file is kept exactly as
      it is.</span
    >
    <input
      type="file"
      multiple
      class="sr-only"
      aria-label="Scans of this card"
      onchange={(e) => {
        void uploads.add(e.currentTarget.files ?? []);
      }}
    />
  </label>
  {#if uploads.outcomes.length}
    <ul class="bg-paper mt-3 px-4 py-2" aria-label="Files" role="log">
      {#each uploads.outcomes as line, index (index)}
        <li class:font-semibold={line.problem}>
          {line.sentence.includes(line.name) ? "" : line.name}
          {line.sentence}{line.share < 1 ? ` ${Math.round(line.share * 100)} %` : ""}
        </li>
      {/each}
    </ul>
  {/if}
  <h2 class="mt-5 mb-2">Captures of this card</h2>
  <ul class="space-y-3">
    {#each [...(card.data?.captures ?? [])].reverse() as capture (capture.id)}
      <CaptureEntry {capture} oncancel={() => void cancel(capture)} onagain={() => void runAgain(capture)} />
    {:else}
      <li class="text-faint font-serif">
        None yet. Captures will lie here, each with its gates and what to do about them.
      </li>
    {/each}
  </ul>
</Room>
