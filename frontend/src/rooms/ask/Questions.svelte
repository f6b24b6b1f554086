<script lang="ts">
  import { libraryQuery } from "../../lib/api/queries";
  import Notice from "../../lib/ui/Notice.svelte";
  import Room from "../../lib/ui/Room.svelte";

  const library = libraryQuery();
</script>

<Room title="Ask" subtitle="What do you want to know? Each question lays out its own cards.">
  {#if library.error}<Notice kind="problem">{library.error.message}</Notice>{/if}
  <ul class="grid grid-cols-2 gap-px xl:grid-cols-3">
    {#each library.data?.questions ?? [] as question (question.id)}
      <li class="bg-paper">
        <a href="/ask/new/{question.id}" class="hover:bg-margin block h-full px-4 py-3 no-underline">
          <span class="font-serif text-base">{question.text}</span>
          <span class="block">Lays side by side {question.beside}.</span>
          <span class="text-faint block">Tells {question.answer}.</span>
        </a>
      </li>
    {/each}
  </ul>
</Room>
