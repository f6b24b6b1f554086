<script lang="ts">
  import { barLength } from "../format";

  interface Props {
    pixelsPerMm: number;
  }
  let { pixelsPerMm }: Props = $props();
  const mm = $derived(barLength(pixelsPerMm, 80));
</script>

<div class="text-xs" role="img" aria-label="Scale: this bar is {mm} millimetres long">
  <div class="border-ink h-1.5 border-x border-b" style:width="{mm * pixelsPerMm}px"></div>
  {mm} mm
</div>
