<script lang="ts">
  import { client, unwrap, type Card, type Session } from "../../lib/api/client";
  import type { LayoutDocument } from "../../lib/api/measurement";
  import { cardQuery, libraryQuery, sessionQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import { forget, keep, kept } from "../../lib/kept";
  import { isTyping } from "../../lib/keys";
  import { route } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { moved } from "../ask/plan.svelte";
  import CardSheet from "./CardSheet.svelte";
  import ExposureForm from "./ExposureForm.svelte";
  import SwatchList from "./SwatchList.svelte";
  import ZoneEditor from "./ZoneEditor.svelte";
  import { isLooseSheet } from "./loose-sheet";
  import { isMoves, type Rect } from "./zones";

  const id = $derived(route.getParams("/card/:card").card);
  const card = cardQuery(() => id);
  const library = libraryQuery();
  const session = sessionQuery(() => card.data?.session ?? 0);
  const attempt = new Attempt();
  /** Zones that were moved and not yet kept; null while none is being moved. Others may move other zones meanwhile. */
  // Moves that were not kept yet survive a reload, card by card.
  let moving = $derived(kept(`zones-${id}`, isMoves));
  const layout = $derived.by(() => {
    const laidOut = card.data?.layout as LayoutDocument | undefined;
    const now = moving;
    if (!laidOut || !now) return laidOut;
    return { ...laidOut, zones: laidOut.zones.map((z) => ({ ...z, rect_mm: now[z.id] ?? z.rect_mm })) };
  });
  const loose = $derived(isLooseSheet(layout));
  const fixed = $derived(session.data?.cards.some((c) => c.captures.length > 0) ?? true);
  const cautions = $derived(card.data?.cautions ?? []);
  const neighbours = $derived(session.data?.cards ?? []);
  const byHand = $derived(session.data?.partners.length === 0);

  const tried = (change: () => Promise<unknown>) =>
    attempt.run(change, "card", "session", "overview", "history", "bench");
  const apply = (change: () => Promise<Session>) =>
    tried(async () => {
      const data = await change();
      await attempt.put(["session", data.id], data);
    });
  const mend = (change: (revision: number) => Promise<Card>) =>
    tried(async () => {
      if (card.data) await attempt.put(["card", id], await change(card.data.revision));
    });
  const path = $derived({ params: { path: { card_id: id } } });

  function move(paint: number, by: number): void {
    const data = session.data;
    if (!data) return;
    const { id: _, question_text, cards, revision, can_undo, can_redo, binned, ...plan } = data;
    void [_, question_text, cards, can_undo, can_redo, binned];
    const from = plan.paints.indexOf(paint);
    void apply(() =>
      unwrap(
        client.PUT("/api/sessions/{session_id}", {
          params: { path: { session_id: data.id } },
          body: { revision, plan: { ...plan, arrangement: "hand", paints: moved(plan.paints, from, from + by) } },
        }),
      ),
    );
  }
  const swap = (one: string, two: string) =>
    mend((revision) => unwrap(client.PUT("/api/cards/{card_id}/swap", { ...path, body: { revision, one, two } })));
  const name = (swatch: string, paint: number | null) =>
    mend((revision) =>
      unwrap(client.PUT("/api/cards/{card_id}/swatch", { ...path, body: { revision, swatch, paint } })),
    );
  const keepZones = () =>
    mend(async (revision) => {
      const zones = (layout?.zones ?? []) as never;
      const taken = await unwrap(client.PUT("/api/cards/{card_id}/zones", { ...path, body: { revision, zones } }));
      leaveZones();
      return taken;
    });
  function leaveZones(): void {
    moving = null;
    forget(`zones-${id}`);
  }
  function place(zone: string, rect: Rect): void {
    if (!moving) return;
    moving = { ...moving, [zone]: rect };
    keep(`zones-${id}`, moving);
  }
  function undo(): void {
    const data = session.data;
    if (data)
      void apply(() =>
        unwrap(client.POST("/api/sessions/{session_id}/undo", { params: { path: { session_id: data.id } } })),
      );
  }
  function redo(): void {
    const data = session.data;
    if (data)
      void apply(() =>
        unwrap(client.POST("/api/sessions/{session_id}/redo", { params: { path: { session_id: data.id } } })),
      );
  }
  function onkeydown(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || isTyping(event)) return;
    // What can be taken back is known only once the change before has come through.
    void attempt.settled().then(() => {
      if (event.key === "z" && session.data?.can_undo) undo();
      if (event.key === "y" && session.data?.can_redo) redo();
    });
  }
</script>

<svelte:window {onkeydown} />
<Room title={card.data ? `${card.data.session_name}, card ${card.data.number}` : "Card"} subtitle={id}>
  {#snippet actions()}
    {#if moving}
      <Button onclick={leaveZones}>Leave the zones as they were</Button>
      <Button primary onclick={() => void keepZones()}>Keep the zones</Button>
    {:else if card.data}
      <Button href="/ask/{card.data.session}">Its plan</Button>
      {#if loose}
        <Button href="/card/{id}/sheet">Correct the sheet</Button>
      {:else}
        <Button disabled={!layout} onclick={() => (moving = {})}>Move zones</Button>
      {/if}
      <Button href="/api/cards/{id}/card.json" download>Layout file</Button>
      {#if !loose}<Button href="/api/cards/{id}/card.pdf" download>PDF to print</Button>{/if}
      {#if neighbours.length > 1}
        <Button href="/api/sessions/{card.data.session}/cards.pdf" download>All {neighbours.length} cards</Button>
      {/if}
      <Button href="/capture/{id}">{loose ? "Its capture" : "Capture it"}</Button>
      {#if !loose}<Button href="/paint/{id}" primary>Paint it</Button>{/if}
    {/if}
  {/snippet}
  {#snippet notebook()}
    {#if card.data}
      {#if neighbours.length > 1}
        <nav aria-label="Cards of this session" class="mb-3 flex flex-wrap gap-1">
          {#each neighbours as other (other.card_id)}
            <a
              href="/card/{other.card_id}"
              aria-current={other.card_id === id ? "page" : undefined}
              class="border-hairline aria-[current=page]:bg-ink aria-[current=page]:text-paper border px-2 no-underline"
              >{other.number}</a
            >
          {/each}
        </nav>
      {/if}
      <h2 class="mb-1">Paints, from the top</h2>
      {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
      <SwatchList
        card={card.data}
        library={library.data}
        reorder={fixed || !byHand ? null : move}
        onswap={(one, two) => void swap(one, two)}
        onname={(swatch, paint) => void name(swatch, paint)}
      />
      {#if fixed}<p class="text-faint mt-2 text-xs">
          The card was captured, so its places are fixed; names and zones can still be mended.
        </p>{/if}
      {#if session.data?.can_undo}
        <p class="mt-2"><button class="underline" onclick={undo}>Take back: {session.data.can_undo}</button></p>
      {/if}
      {#if layout?.zones.some((z) => z.kind === "exposed")}
        <ExposureForm card={card.data} {attempt} />
      {/if}
      {#if !loose}
        <h2 class="mt-5 mb-1">Before you paint</h2>
        <ul class="list-disc space-y-1 pl-4 font-serif">
          <li>Print at 100 %; the ruler at the foot must measure what is written on it.</li>
          {#if layout?.zones.some((z) => z.kind === "ink")}
            <li>Ink the dark cells with waterproof black and let them dry first.</li>
          {/if}
          {#if layout?.zones.some((z) => z.kind === "gradient")}
            <li>Masstone first, then draw it out into the palest wash you can.</li>
          {/if}
          <li>Capture only when dry.</li>
        </ul>
      {/if}
      {#if cautions.length}
        <h2 class="mt-5 mb-1">Caution</h2>
        <ul class="list-disc space-y-1 pl-4 font-serif">
          {#each cautions as caution (caution)}<li>{caution}</li>{/each}
        </ul>
      {/if}
    {/if}
  {/snippet}
  {#if card.error}<Notice kind="problem">{card.error.message}</Notice>{/if}
  {#if layout}
    <div class="mx-auto" style:max-width="{layout.size_mm[0] > layout.size_mm[1] ? 880 : 560}px">
      <div class="relative">
        <CardSheet {layout} paints={card.data?.paints ?? {}} detailed />
        {#if moving}<ZoneEditor {layout} onchange={place} />{/if}
      </div>
      <p class="text-faint mt-1 text-xs">
        {#if moving}
          Drag a zone, or go to it with Tab and use the arrow keys; with Shift they change its size. What was captured
          is measured again.
        {:else if loose}
          {Math.round(layout.size_mm[0])} × {Math.round(layout.size_mm[1])} mm: a sheet without a printed card.
        {:else}
          {layout.size_mm[0]} × {layout.size_mm[1]} mm. Reference patches are printed, but never trusted: their values come
          from the target's own file.
        {/if}
      </p>
    </div>
  {/if}
</Room>
