<script lang="ts">
  import { Select } from "bits-ui";

  interface Props {
    value: string;
    options: { value: string; label: string }[];
    label: string;
    onchange?: (value: string) => void;
    compact?: boolean;
    disabled?: boolean;
  }
  let { value = $bindable(), options, label, onchange, compact = false, disabled = false }: Props = $props();
  const shown = $derived(options.find((o) => o.value === value)?.label ?? "choose");
</script>

<Select.Root type="single" bind:value onValueChange={onchange} items={options} {disabled}>
  <Select.Trigger
    aria-label={label}
    class="border-hairline bg-paper flex items-center justify-between gap-3 border px-2 py-1 text-left {compact
      ? ''
      : 'w-full'}"
  >
    <span>{shown}</span><span aria-hidden="true" class="text-faint">▾</span>
  </Select.Trigger>
  <Select.Portal>
    <Select.Content class="border-ink bg-paper z-50 max-h-80 overflow-y-auto border" sideOffset={2}>
      {#each options as option (option.value)}
        <Select.Item
          value={option.value}
          label={option.label}
          class="data-[highlighted]:bg-strip cursor-default px-3 py-1.5 data-[selected]:font-semibold"
        >
          {option.label}
        </Select.Item>
      {/each}
    </Select.Content>
  </Select.Portal>
</Select.Root>
