<script lang="ts">
  import { client, unwrap } from "../../lib/api/client";
  import { zoneTitle } from "../../lib/api/measurement";
  import { cardQuery, libraryQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import { forget, keep, kept } from "../../lib/kept";
  import { navigate, route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import * as change from "./loose-sheet";
  import { isLooseSheet, type LooseSheet, type Point } from "./loose-sheet";
  import SheetCorners from "./SheetCorners.svelte";
  import SheetZones from "./SheetZones.svelte";
  import type { Rect } from "./zones";

  const id = $derived(route.getParams("/card/:card/sheet").card);
  const card = cardQuery(() => id);
  const library = libraryQuery();
  const attempt = new Attempt();

  // What was changed and not yet kept survives a reload.
  let changed = $derived(kept(`sheet-${id}`, isLooseSheet));
  const saved = $derived(card.data?.layout as unknown as LooseSheet | undefined);
  const sheet = $derived(changed ?? saved);
  let paints = $derived(Object.fromEntries(Object.entries(card.data?.paints ?? {}).map(([s, p]) => [s, p.id])));
  let chosen = $state<string[]>([]);
  let mode = $state<"zones" | "corners" | "scale">("zones");
  let corners = $state<Point[]>([]);
  let sizes = $state<[string, string]>(["", ""]);
  let apart = $state(0);
  let length = $state("");
  let said = $state("");
  let busy = $state(false);
  const path = $derived({ params: { path: { card_id: id } } });
  const picture = $derived(`/api/cards/${id}/sheet.jpg?view=straight&v=${card.data?.revision ?? 0}`);
  const first = $derived(sheet?.zones.find((z) => z.id === chosen[0]));
  const scales: Record<string, string> = {
    file: "by the file's own resolution",
    clicks: "by two points",
    size: "by the size of the sheet",
  };

  function apply(next: LooseSheet | undefined): void {
    if (!next) return;
    changed = next;
    keep(`sheet-${id}`, next);
  }
  function alter(how: (sheet: LooseSheet) => LooseSheet): void {
    if (sheet) apply(how(sheet));
    chosen = chosen.filter((c) => changed?.zones.some((z) => z.id === c));
  }
  function leave(): void {
    changed = null;
    forget(`sheet-${id}`);
    chosen = [];
  }
  function draw(rect: Rect): void {
    if (!sheet) return;
    const { sheet: next, id: zone } = change.added(sheet);
    apply(change.placed(next, zone, rect));
    chosen = [zone];
  }
  function add(): void {
    if (!sheet) return;
    const { sheet: next, id: zone } = change.added(sheet);
    apply(next);
    chosen = [zone];
  }
  function retitle(kind: string): void {
    const zone = first;
    if (!sheet || !zone) return;
    const at = sheet.zones.indexOf(zone);
    apply(change.asKind(sheet, zone.id, kind));
    chosen = changed?.zones[at] ? [changed.zones[at].id] : [];
  }
  function name(paint: string): void {
    const swatch = first?.swatch;
    if (!swatch) return;
    const { [swatch]: _, ...others } = paints;
    void _;
    paints = paint === "" ? others : { ...others, [swatch]: Number(paint) };
    if (sheet) apply(sheet); // a name alone is a change to be kept, too
  }

  function startCorners(): void {
    if (!sheet) return;
    corners = sheet.placement.corners_px.map((c) => [...c] as Point);
    sizes = sheet.placement.scale === "size" ? [String(sheet.size_mm[0]), String(sheet.size_mm[1])] : ["", ""];
    mode = "corners";
  }
  async function findAgain(): Promise<void> {
    const given = sizes.map((s) => Number(s.replace(",", ".")));
    const size = given.every((v) => v > 0) ? (given as Point) : null;
    busy = true;
    await attempt.run(async () => {
      const body = { corners_px: corners as LooseSheet["placement"]["corners_px"], size_mm: size };
      const found = await unwrap(client.POST("/api/cards/{card_id}/sheet/find", { ...path, body }));
      await store(found.layout as unknown as LooseSheet);
      said = found.said;
      mode = "zones";
    }, "overview");
    busy = false;
  }
  async function store(layout: LooseSheet): Promise<void> {
    const revision = card.data?.revision ?? 0;
    const swatches = new Set(layout.swatches.map((s) => s.id));
    const named = Object.fromEntries(Object.entries(paints).filter(([s]) => swatches.has(s)));
    const body = { revision, layout: layout as unknown as Record<string, never>, paints: named };
    await attempt.put(["card", id], await unwrap(client.PUT("/api/cards/{card_id}/sheet", { ...path, body })));
    leave();
  }
  async function keepAll(): Promise<void> {
    if (!sheet) return;
    const done = await attempt.run(() => store(sheet), "card", "session", "overview", "history");
    if (done) await navigate("/capture/:card", { params: { card: id } });
  }
  function takeLength(): void {
    const real = Number(length.replace(",", "."));
    if (!(real > 0) || !(apart > 0)) return;
    alter((s) => change.rescaled(s, apart, real));
    mode = "zones";
    apart = 0;
    length = "";
  }
</script>

<Room title="A sheet without a printed card" subtitle={card.data ? `${card.data.session_name} (${id})` : id}>
  {#snippet actions()}
    {#if mode === "corners"}
      <Button onclick={() => (mode = "zones")}>Leave the corners</Button>
      <Button primary disabled={busy} onclick={() => void findAgain()}
        >{busy ? "Looking for swatches…" : "Pull straight and find swatches"}</Button
      >
    {:else if card.data}
      <Button href="/card/{id}">The card</Button>
      <Button onclick={startCorners}>Corners</Button>
      <Button onclick={() => (mode = mode === "scale" ? "zones" : "scale")}
        >{mode === "scale" ? "Leave the scale" : "Scale by two points"}</Button
      >
      {#if changed}<Button onclick={leave}>Leave it as it was</Button>{/if}
      <Button primary onclick={() => void keepAll()}>Keep and measure</Button>
    {/if}
  {/snippet}
  {#snippet notebook()}
    {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
    {#if said}<p class="mb-3 font-serif">{said}</p>{/if}
    {#if mode === "corners"}
      <h2 class="mb-1">Corners</h2>
      <p class="mb-3 font-serif">
        Pull the four circles to the sheet's corners, or go to one with Tab and use the arrow keys. Swatches are looked
        for anew; zones as they are now are given up.
      </p>
      <h2 class="mb-1">Its size, where you know it</h2>
      <div class="flex items-center gap-2">
        <input
          class="border-hairline bg-paper w-20 border px-2 py-1"
          aria-label="Width of the sheet, mm"
          bind:value={sizes[0]}
        />
        ×
        <input
          class="border-hairline bg-paper w-20 border px-2 py-1"
          aria-label="Height of the sheet, mm"
          bind:value={sizes[1]}
        />
        mm
      </div>
    {:else if sheet}
      <h2 class="mb-1">Scale</h2>
      <p class="mb-2 font-serif">
        {#if sheet.placement.scale === "unknown"}
          Not known, so lengths mean nothing yet: click two points, or give the sheet's size with its corners.
        {:else}
          {Math.round(sheet.size_mm[0])} × {Math.round(sheet.size_mm[1])} mm, {scales[sheet.placement.scale] ?? ""}.
        {/if}
      </p>
      {#if mode === "scale"}
        <p class="mb-2 font-serif">Click two points whose distance you know: a ruler, a swatch that you measured.</p>
        {#if apart > 0}
          <form
            class="mb-3 flex items-center gap-2"
            onsubmit={(e) => {
              e.preventDefault();
              takeLength();
            }}
          >
            <input
              class="border-hairline bg-paper w-20 border px-2 py-1"
              aria-label="Millimetres between the points"
              bind:value={length}
            />
            mm apart
            <Button type="submit">Take it</Button>
          </form>
        {/if}
      {/if}
      <h2 class="mt-4 mb-1">{chosen.length > 1 ? `${chosen.length} zones` : (first?.id ?? "Zones")}</h2>
      {#if first}
        <div class="space-y-2">
          {#if chosen.length === 1}
            <Choice
              label="What it is"
              value={first.kind}
              options={change.KINDS.map((kind) => ({ value: kind, label: zoneTitle(kind) }))}
              onchange={retitle}
            />
            {#if first.kind === "gradient"}
              <Choice
                label="Its direction"
                value={first.axis ?? "+x"}
                options={Object.entries(change.AXES).map(([value, label]) => ({ value, label }))}
                onchange={(axis) => {
                  alter((s) => change.pointing(s, first.id, axis));
                }}
              />
            {/if}
            {#if first.swatch}
              <Choice
                label="Paint of {first.swatch}"
                value={paints[first.swatch] === undefined ? "" : String(paints[first.swatch])}
                options={[
                  { value: "", label: "not named" },
                  ...(library.data?.paints ?? []).map((p) => ({
                    value: String(p.id),
                    label: `${p.name} · ${p.maker}`,
                  })),
                ]}
                onchange={name}
              />
            {/if}
          {/if}
          <div class="flex flex-wrap gap-2">
            {#if chosen.length > 1}
              <Button
                title="They become zones of one swatch"
                onclick={() => {
                  alter((s) => change.joined(s, chosen));
                }}>Same paint</Button
              >
            {:else}
              <Button
                title="Cut it in two across its longer side"
                onclick={() => {
                  alter((s) => change.divided(s, first.id));
                }}>Cut in two</Button
              >
            {/if}
            <Button
              onclick={() => {
                alter((s) => change.withoutZones(s, chosen));
              }}>Take away</Button
            >
          </div>
        </div>
      {:else}
        <p class="font-serif">
          {sheet.swatches.length} swatches. Choose a zone to say what it is; with Shift choose several that are of one paint.
          Draw a new one on bare picture.
        </p>
      {/if}
      <p class="mt-3"><Button onclick={add}>Add a zone</Button></p>
      <p class="text-faint mt-4 text-xs">
        Keys: Tab goes from zone to zone, Space chooses, arrows move, Shift and arrows change the size, Delete takes
        away.
      </p>
      <p class="text-faint mt-3 text-xs">
        Without reference patches colours rest on the file's own profile, or on the paper taken for white; each figure
        says so, and grain needs a printed card.
      </p>
    {/if}
  {/snippet}
  {#if card.error}<Notice kind="problem">{card.error.message}</Notice>{/if}
  {#if sheet?.placement}
    {#if mode === "corners"}
      <div class="mx-auto" style:max-width="calc(78vh * {sheet.placement.image_px[0] / sheet.placement.image_px[1]})">
        <SheetCorners
          picture="/api/cards/{id}/sheet.jpg?view=whole"
          size={sheet.placement.image_px}
          {corners}
          onmove={(index, to) => (corners[index] = to)}
        />
      </div>
    {:else}
      <div class="mx-auto" style:max-width="calc(78vh * {sheet.size_mm[0] / sheet.size_mm[1]})">
        <SheetZones
          {sheet}
          {picture}
          {chosen}
          picking={mode === "scale"}
          onplace={(zone, rect) => {
            alter((s) => change.placed(s, zone, rect));
          }}
          onchoose={(ids) => (chosen = ids)}
          ondraw={draw}
          onremove={() => {
            alter((s) => change.withoutZones(s, chosen));
          }}
          onpicked={(millimetres) => (apart = millimetres)}
        />
      </div>
    {/if}
  {:else if card.data}
    <Notice kind="problem"
      >Card {id} was printed and is placed by its own tags; its zones are moved on the card's page.</Notice
    >
  {/if}
</Room>
