<script lang="ts">
  import { useQueryClient } from "@tanstack/svelte-query";
  import { client, unwrap } from "../../lib/api/client";
  import { sendSheet } from "../../lib/api/resumable";
  import { overviewQuery } from "../../lib/api/queries";
  import CardSheet from "./CardSheet.svelte";
  import Room from "../../lib/ui/Room.svelte";
  import { navigate } from "../../lib/router";
  import Button from "../../lib/ui/Button.svelte";
  import FileButton from "../../lib/ui/FileButton.svelte";
  import Notice from "../../lib/ui/Notice.svelte";

  const overview = overviewQuery();
  const queries = useQueryClient();
  let problem = $state("");

  /** A card that was made elsewhere and perhaps painted already: its layout file is enough to name and measure it. */
  async function declare(files: FileList): Promise<void> {
    problem = "";
    try {
      const layout: unknown = JSON.parse((await files[0]?.text()) ?? "");
      const body = { name: "", question: "one-paint", layout: layout as Record<string, never> };
      const session = await unwrap(client.POST("/api/cards", { body }));
      await queries.invalidateQueries({ queryKey: ["overview"] });
      const card = session.cards[0];
      if (card) await navigate("/card/:card", { params: { card: card.card_id } });
    } catch (refusal) {
      problem =
        refusal instanceof SyntaxError
          ? "That file is no layout; choose the .card.json that belongs to the card."
          : (refusal as Error).message;
    }
  }
  let coming = $state("");
  /** Any old scan or photograph of swatches: they are looked for, and corrected on the sheet's own page. */
  async function takeSheet(files: FileList): Promise<void> {
    const file = files[0];
    if (!file) return;
    problem = "";
    coming = "On its way";
    try {
      const card = await sendSheet(file, (share, waiting) => {
        const stage = share < 1 ? `${file.name}, ${Math.round(100 * share)} % has come` : "Looking for swatches…";
        coming = waiting ? "The connection broke; it goes on when it is back." : stage;
      });
      await queries.invalidateQueries({ queryKey: ["overview"] });
      await navigate("/card/:card/sheet", { params: { card } });
    } catch (refusal) {
      problem = (refusal as Error).message;
    }
    coming = "";
  }
  const cards = $derived((overview.data?.sessions ?? []).flatMap((s) => s.cards));
</script>

<Room title="Card" subtitle="Every card that was laid out, ready to print and paint.">
  {#snippet actions()}
    <FileButton
      label="Image of a sheet without a printed card"
      accept="image/*,.tif,.tiff,.heic,.heif,.dng"
      onfiles={(files) => void takeSheet(files)}>{coming || "An old scan without a card"}</FileButton
    >
    <FileButton label="Layout file of a card" accept=".json" onfiles={(files) => void declare(files)}
      >Declare a card by its layout file</FileButton
    >
  {/snippet}
  {#if problem}<div class="mb-3"><Notice kind="problem">{problem}</Notice></div>{/if}
  <ul class="grid grid-cols-2 gap-5 xl:grid-cols-3">
    {#each cards as card (card.card_id)}
      <li>
        <a href="/card/{card.card_id}" class="block no-underline">
          <CardSheet layout={card.layout as never} paints={card.paints} />
          <span class="mt-1 block font-serif">{card.session_name}, card {card.number}</span>
          <span class="text-faint text-xs">{card.card_id}</span>
        </a>
      </li>
    {:else}
      <li class="bg-paper p-6">
        <p class="mb-3 font-serif">Cards will lie here once a session has paints.</p>
        <Button href="/ask" primary>Ask a question</Button>
      </li>
    {/each}
  </ul>
</Room>
