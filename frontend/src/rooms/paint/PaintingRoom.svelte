<script lang="ts">
  import { client, unwrap, type BenchPage } from "../../lib/api/client";
  import { benchQuery } from "../../lib/api/queries";
  import { Attempt } from "../../lib/attempt.svelte";
  import { clock } from "../../lib/format";
  import { forget, isText, keep, kept } from "../../lib/kept";
  import { isTyping } from "../../lib/keys";
  import { route } from "../../lib/router";
  import Notice from "../../lib/ui/Notice.svelte";
  import CardSheet from "../card/CardSheet.svelte";
  import { timers } from "../../lib/timers.svelte";

  const id = $derived(route.getParams("/paint/:card").card);
  const bench = benchQuery(() => id);
  const attempt = new Attempt();
  let begun = $state(false);
  // A note is kept letter by letter until it is written into the book.
  let words = $derived(kept(`note-${id}`, isText) ?? "");
  $effect(() => {
    if (words) keep(`note-${id}`, words);
    else forget(`note-${id}`);
  });
  let noting = $state<HTMLInputElement>();
  const data = $derived(bench.data);
  const step = $derived(data?.steps.find((s) => s.id === data.next) ?? null);
  const done = $derived((data?.steps ?? []).filter((s) => s.done));
  const last = $derived(done.at(-1) ?? null);
  const cautions = $derived(data?.card.cautions ?? []);
  const waiting = $derived(timers.running.filter((t) => t.card_id === id));
  const showCautions = $derived(!begun && done.length === 0 && cautions.length > 0);
  const at = (time: string) => new Date(time).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  const big = "border-ink min-h-16 border-2 px-6 text-2xl";

  const act = (action: () => Promise<BenchPage>) =>
    attempt.run(async () => attempt.put(["bench", id], await action()), "timers", "inbox", "overview");
  const path = $derived({ params: { path: { card_id: id } } });
  const at_step = (step_id: string) => ({ params: { path: { card_id: id, step_id } } });
  function forward(): void {
    if (showCautions) begun = true;
    else if (step) void act(() => unwrap(client.POST("/api/cards/{card_id}/bench/{step_id}/done", at_step(step.id))));
  }
  function back(): void {
    if (last) void act(() => unwrap(client.POST("/api/cards/{card_id}/bench/{step_id}/back", at_step(last.id))));
  }
  const swatch = $derived(step?.swatch ?? last?.swatch ?? "");
  const mishap = (kind: string) =>
    act(() => unwrap(client.POST("/api/cards/{card_id}/mishaps", { ...path, body: { kind, swatch } })));
  /** The swatch that was just said to lie in the wrong cell, until it is said in which. */
  const misplaced = $derived.by(() => {
    const entry = data?.entries.at(-1);
    return entry?.kind === "mishap" && entry.step === "wrong-cell" ? entry.swatch : "";
  });
  const others = $derived(
    ((data?.card.layout.swatches ?? []) as { id: string }[]).map((s) => s.id).filter((s) => s !== misplaced),
  );
  const swap = (one: string, two: string) =>
    attempt.run(
      async () => {
        const body = { revision: data?.card.revision ?? 0, one, two };
        await unwrap(client.PUT("/api/cards/{card_id}/swap", { ...path, body }));
        const text = `swapped with ${two}`;
        await unwrap(client.POST("/api/cards/{card_id}/notes", { ...path, body: { text, swatch: one } }));
      },
      "bench",
      "card",
      "session",
      "history",
    );
  async function note(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!words.trim()) return;
    const body = { text: words, swatch };
    if (await act(() => unwrap(client.POST("/api/cards/{card_id}/notes", { ...path, body })))) words = "";
  }
  function onkeydown(event: KeyboardEvent): void {
    if (isTyping(event) || event.ctrlKey || event.metaKey || event.altKey) return;
    const onButton = (event.target as HTMLElement | null)?.tagName === "BUTTON";
    if (event.key === "d" || (event.key === " " && !onButton)) {
      event.preventDefault();
      forward();
    } else if (event.key === "b") back();
    else if (event.key === "n") {
      event.preventDefault();
      noting?.focus();
    } else {
      const kind = data?.mishaps["qwerty".indexOf(event.key)];
      if (kind && "qwerty".includes(event.key)) void mishap(kind.id);
    }
  }
</script>

<svelte:window {onkeydown} />
<svelte:head><title>{id} · Gelvet</title></svelte:head>
<main class="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_420px] gap-0">
  <section class="bg-paper flex min-h-0 flex-col px-8 py-5" aria-label="What to do now">
    <div class="flex min-h-0 flex-1 flex-col gap-4 overflow-y-auto">
      <p class="text-faint text-lg">
        <a href="/card/{id}">{data ? `${data.card.session_name}, card ${data.card.number}` : id}</a>
        {#if data}· step {Math.min(done.length + 1, data.steps.length)} of {data.steps.length}{/if}
      </p>
      {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
      {#if bench.error}<Notice kind="problem">{bench.error.message}</Notice>{/if}
      {#if showCautions}
        <h1 class="!text-4xl">Before you start</h1>
        <ul class="list-disc space-y-3 pl-8 font-serif text-2xl">
          {#each cautions as caution (caution)}<li>{caution}</li>{/each}
        </ul>
        <div>
          <button class="{big} bg-ink text-paper" onclick={forward}
            >I have read this <kbd class="ml-2 text-base opacity-70">d</kbd></button
          >
        </div>
      {:else if step}
        <h1 class="!text-5xl !leading-tight" data-testid="step">{step.text}</h1>
        {#if step.reminder}<p class="font-serif text-3xl">{step.reminder}</p>{/if}
        {#if step.seconds}<p class="text-faint text-2xl">Then it waits {clock(step.seconds)}.</p>{/if}
      {:else if data}
        <h1 class="!text-5xl" data-testid="step">Everything on this card is done.</h1>
        <p class="font-serif text-3xl">When it is dry, capture it.</p>
        <div>
          <a class="{big} bg-ink text-paper inline-flex items-center no-underline" href="/capture/{id}">Capture it</a>
        </div>
      {/if}
    </div>
    {#each waiting as timer (timer.id)}
      <p class="border-hairline flex items-baseline gap-4 border-t pt-1 text-2xl" role="timer" aria-label={timer.title}>
        <span class="flex-1">{timer.title}</span>
        <b class="text-5xl font-semibold">{clock(timer.left)}</b>
        <button
          class="min-h-10 text-xl underline"
          onclick={() => void attempt.run(() => timers.end(timer.id), "timers")}
          >{timer.left > 0 ? "Stop" : "Heard"}</button
        >
      </p>
    {/each}
    <div class="flex flex-wrap gap-3 pt-4">
      {#if step && !showCautions}
        <button class="{big} bg-ink text-paper flex-1" onclick={forward}
          >Done <kbd class="ml-2 text-base opacity-70">d</kbd></button
        >
      {/if}
      <button class="{big} bg-paper disabled:text-faint disabled:border-hairline" disabled={!last} onclick={back}
        >Back <kbd class="ml-2 text-base opacity-70">b</kbd></button
      >
    </div>
  </section>
  <aside aria-label="Margin notebook" class="border-hairline bg-margin min-h-0 overflow-y-auto border-l px-4 py-4">
    {#if data}
      <CardSheet layout={data.card.layout as never} paints={data.card.paints} marked={step?.zones ?? []} />
      <h2 class="mt-4 mb-1">Went wrong{swatch ? ` with ${swatch}` : ""}</h2>
      <div class="grid grid-cols-2 gap-2">
        {#each data.mishaps as kind, index (kind.id)}
          <button
            class="border-ink bg-paper min-h-14 border px-2 text-left text-base leading-tight"
            onclick={() => void mishap(kind.id)}
            >{kind.text} <kbd class="text-faint text-xs">{"qwerty"[index]}</kbd></button
          >
        {/each}
      </div>
      <form class="mt-3 flex gap-2" onsubmit={note}>
        <input
          bind:this={noting}
          type="text"
          class="text-lg"
          aria-label="Note"
          placeholder="A note (n)"
          bind:value={words}
        />
        <button class="border-ink bg-paper border px-4 text-lg" type="submit">Write</button>
      </form>
      {#if misplaced}
        <p class="mt-3 text-lg font-semibold">Which cell did {misplaced} go into?</p>
        <div class="mt-1 grid grid-cols-3 gap-2">
          {#each others as other (other)}
            <button
              class="border-ink bg-paper min-h-14 border text-lg"
              onclick={() => void swap(misplaced, other)}
              title="The two cells change places; nothing need be painted again">{other}</button
            >
          {/each}
        </div>
      {/if}
      <h2 class="mt-4 mb-1">Bench book</h2>
      <ol class="space-y-1" aria-label="Bench book">
        {#each [...data.entries].reverse() as entry, index (index)}
          <li class={entry.kind === "step" ? "text-faint" : "font-semibold"}>
            <span class="text-xs">{at(entry.at)}</span>
            {entry.kind === "undone" ? "taken back" : entry.swatch && entry.kind !== "step" ? `${entry.swatch}: ` : ""}
            {entry.text}
          </li>
        {:else}
          <li class="text-faint">Each step and note is written here with its time.</li>
        {/each}
      </ol>
    {/if}
  </aside>
</main>
