<script lang="ts">
  import { client, unwrap, type Library, type Question } from "../../lib/api/client";
  import Choice from "../../lib/ui/Choice.svelte";
  import type { PlanDraft } from "./plan.svelte";

  interface Props {
    draft: PlanDraft;
    library: Library;
    question: Question;
    onproblem: (sentence: string) => void;
  }
  let { draft, library, question, onproblem }: Props = $props();
  let subject = $state("");
  let told = $state("");

  const titles: Record<string, string> = {
    paint: "The paint in question",
    name: "The colour's name",
    pigment: "The pigment",
    set: "The set or range",
  };
  const unique = (values: string[]) => [...new Set(values)].sort((a, b) => a.localeCompare(b));
  const options = $derived.by(() => {
    const paints = library.paints;
    if (question.start === "paint")
      return paints.map((p) => ({ value: String(p.id), label: `${p.name} · ${p.maker} · ${p.pigments.join(" ")}` }));
    if (question.start === "name") return unique(paints.map((p) => p.name)).map((v) => ({ value: v, label: v }));
    if (question.start === "pigment")
      return unique(paints.flatMap((p) => p.pigments)).map((v) => ({ value: v, label: v }));
    return unique(paints.filter((p) => p.range).map((p) => `${p.maker} · ${p.range}`)).map((v) => ({
      value: v,
      label: v,
    }));
  });

  function name(): string {
    const short = question.text.replace(/\?$/, "");
    if (question.start === "paints") return short;
    const paint = library.paints.find((p) => String(p.id) === subject);
    return `${paint && question.start === "paint" ? paint.name : subject}: ${short.charAt(0).toLowerCase()}${short.slice(1)}`;
  }

  async function propose(): Promise<void> {
    try {
      const found = await unwrap(client.POST("/api/plans/propose", { body: { question: question.id, subject } }));
      draft.propose(found, name());
      const count = found.paints.length + found.partners.length;
      told = count
        ? `${count} ${count === 1 ? "paint is proposed; change it" : "paints are proposed; change them"} as you like.`
        : "Nothing in the library answers to that; choose paints by hand.";
    } catch (refusal) {
      onproblem((refusal as Error).message);
    }
  }

  // Questions about any paints need no subject: their proposal is there at once.
  $effect(() => {
    if (question.start === "paints" && draft.paints.length === 0 && told === "") void propose();
  });
</script>

<div>
  {#if question.start !== "paints"}
    <span class="text-faint text-xs">{titles[question.start]}</span>
    <Choice label={titles[question.start] ?? ""} bind:value={subject} {options} onchange={() => void propose()} />
  {/if}
  <p class="text-faint mt-1 text-xs" role="status">
    {told || (options.length === 0 ? "The library has nothing to start from yet; add paints first." : "")}
  </p>
</div>
