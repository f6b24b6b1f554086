<script lang="ts">
  import type { Sheet } from "../../lib/api/client";
  import { sendForm } from "../../lib/api/send-form";
  import { Attempt } from "../../lib/attempt.svelte";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import FileButton from "../../lib/ui/FileButton.svelte";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const attempt = new Attempt();
  let file = $state<File | null>(null);
  let sheet = $state<Sheet | null>(null);
  let broughtIn = $state(0);
  const titles: Record<string, string> = {
    name: "paint name",
    pigments: "pigment codes",
    lightfastness: "light-fastness",
    size_ml: "size, ml",
    place: "place in its range",
  };
  const faulty = $derived((sheet?.rows ?? []).filter((row) => row.problems.length > 0));
  const shown = $derived([...faulty, ...(sheet?.rows ?? []).filter((row) => row.problems.length === 0)].slice(0, 200));

  const send = <T,>(path: string, mapping?: Record<string, string>) =>
    sendForm<T>(path, { ...(file && { file }), ...(mapping && { mapping: JSON.stringify(mapping) }) });
  const look = (mapping?: Record<string, string>) =>
    attempt.run(async () => {
      sheet = await send<Sheet>("/api/paints/spreadsheet/preview", mapping);
    });
  async function take(files: FileList): Promise<void> {
    file = files[0] ?? null;
    sheet = null;
    broughtIn = 0;
    if (file) await look();
  }
  function choose(field: string, column: string): void {
    const others = Object.entries(sheet?.mapping ?? {}).filter(([other]) => other !== field);
    const mapping = Object.fromEntries(column ? [...others, [field, column]] : others);
    void look(mapping);
  }
  const bringIn = () =>
    attempt.run(async () => {
      broughtIn = (await send<{ paints: number }>("/api/paints/spreadsheet", sheet?.mapping)).paints;
      sheet = null;
    }, "library");
</script>

<Room
  title="Paints from a spreadsheet"
  subtitle="Save your list as CSV and bring it in; nothing is kept before you have seen it."
>
  {#snippet actions()}
    <Button href="/api/paints.csv" download>The library as CSV</Button>
    <Button href="/api/paints.json" download>as JSON</Button>
    <Button primary disabled={!sheet?.good} onclick={() => void bringIn()}>
      {sheet?.good ? `Bring in ${sheet.rows.length} paints` : "Bring them in"}
    </Button>
  {/snippet}
  <div class="space-y-3">
    <FileButton label="Spreadsheet file" accept=".csv,.txt,.tsv" onfiles={(files) => void take(files)}>
      {file ? `Another file (now ${file.name})` : "Choose a CSV file"}
    </FileButton>
    {#if attempt.problem}<Notice kind="problem">{attempt.problem}</Notice>{/if}
    {#if broughtIn}<Notice>{broughtIn} paints were brought in. <a href="/ask">Ask a question</a> with them.</Notice
      >{/if}
    {#if sheet}
      <section class="bg-paper p-4" aria-label="Columns">
        <h2 class="mb-2">Which column holds what</h2>
        <div class="grid grid-cols-5 gap-3">
          {#each sheet.fields as field (field)}
            <div>
              <span class="text-faint text-xs">{titles[field] ?? field}</span>
              <Choice
                label="Column for {titles[field] ?? field}"
                value={sheet.mapping[field] ?? ""}
                options={[{ value: "", label: "none" }, ...sheet.columns.map((c) => ({ value: c, label: c }))]}
                onchange={(column) => choose(field, column)}
              />
            </div>
          {/each}
        </div>
      </section>
      <p class="font-serif">
        {faulty.length === 0
          ? `✓ All ${sheet.rows.length} rows can become paints.`
          : `✕ ${faulty.length} of ${sheet.rows.length} rows have faults; mend them in your file and choose it again. Nothing is brought in until every row is right.`}
      </p>
      <table class="bg-paper w-full text-left" aria-label="Rows">
        <thead class="text-faint text-xs">
          <tr>
            <th class="px-2 py-1 font-normal">line</th>
            {#each Object.keys(sheet.mapping) as field (field)}<th class="px-2 py-1 font-normal"
                >{titles[field] ?? field}</th
              >{/each}
            <th class="px-2 py-1 font-normal">faults</th>
          </tr>
        </thead>
        <tbody>
          {#each shown as row (row.line)}
            <tr class="border-strip border-t">
              <td class="text-faint px-2 py-1">{row.line}</td>
              {#each Object.keys(sheet.mapping) as field (field)}<td class="px-2 py-1">{row.values[field]}</td>{/each}
              <td class="px-2 py-1 font-semibold">{row.problems.join("; ")}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {:else if !file}
      <div class="bg-paper max-w-prose p-6 font-serif">
        <p class="mb-2">
          The first line names the columns: maker and paint name are needed; pigment codes, form, and what the label
          claims are welcome. Commas, semicolons or tabs, and any common encoding, are understood.
        </p>
        <p>You will see every row, and what is wrong with it, before anything is brought in.</p>
      </div>
    {/if}
  </div>
</Room>
