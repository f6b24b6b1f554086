<script lang="ts">
  import type { Device } from "../../lib/api/client";
  import Button from "../../lib/ui/Button.svelte";
  import Choice from "../../lib/ui/Choice.svelte";
  import NamedChoice from "../../lib/ui/NamedChoice.svelte";
  import { lampFrom, SIDES } from "./sides";

  interface Props {
    card: string;
    paintable: boolean;
    ontake: (device: Device) => void;
  }
  let { card, paintable, ontake }: Props = $props();
  let device = $state("flatbed");
  let kinds = $state<Record<string, string>>({ flatbed: "white-led", camera: "daylight" });
  let tones = $state<Record<string, string>>({ flatbed: "srgb", camera: "camera" });
  let dpi = $state("300");
  let tilt = $state(3);
  let fallOff = $state(12);
  let format = $state("jpeg-92");
  let lamp = $state("none");
  let turn = $state("0");
  let over = $state(false);
  let moment = $state("dry");
  let fault = $state("none");
  let shown = $state("");
  let failed = $state(false);

  const lights: Record<string, { value: string; label: string }[]> = {
    flatbed: [
      { value: "white-led", label: "white LED, colour sensor" },
      { value: "three-led", label: "red, green and blue LED in turn" },
    ],
    camera: [
      { value: "daylight", label: "daylight from a window" },
      { value: "lamp-led", label: "white LED lamps" },
    ],
  };
  const curves: Record<string, string[]> = {
    flatbed: ["linear", "srgb", "gamma-1.8", "gamma-2.2"],
    camera: ["linear", "srgb", "camera"],
  };
  const faults = [
    { value: "none", label: "nothing" },
    { value: "glare", label: "a lamp mirrored on the patches" },
    { value: "veil", label: "a window mirrored over one side" },
    { value: "shadow", label: "your own shadow on the card" },
    { value: "two-lights", label: "a lamp on beside the window" },
    { value: "thumb", label: "a thumb over a tag" },
    { value: "stain", label: "tea on the bare paper" },
    { value: "overexposed", label: "exposed too long" },
    { value: "underexposed", label: "exposed too briefly" },
    { value: "blur", label: "out of focus" },
    { value: "noise", label: "too little light, noisy" },
    { value: "fall-off", label: "lit from one side" },
    { value: "tilt", label: "camera held aslant" },
    { value: "coarse", label: "from too far away" },
    { value: "white-balance", label: "wrong white balance" },
    { value: "narrow-colours", label: "colours cut down to a screen's" },
    { value: "yellowed", label: "the target has yellowed" },
    { value: "wrong-target", label: "another target on the card" },
  ];
  const flatbedFaults = new Set([
    "tilt",
    "white-balance",
    "veil",
    "shadow",
    "two-lights",
    "underexposed",
    "narrow-colours",
  ]);
  const possible = $derived(device === "camera" ? faults : faults.filter((f) => !flatbedFaults.has(f.value)));

  const low = $derived(device === "camera" && lamp !== "none");
  const settings = $derived<Device>({
    device,
    kind: kinds[device]!,
    tone: tones[device]!,
    dpi: Number(dpi),
    rotation_deg: 0.4 + Number(turn),
    tilt_deg: tilt,
    fall_off: fallOff / 100,
    file_format: format,
    lamp_azimuth_deg: low ? Number(lamp) : null,
    lamp_elevation_deg: low ? 20 : null,
    beside: over && !low,
    paint_state: moment,
    fault: possible.some((f) => f.value === fault) && fault !== "none" ? fault : null,
  });
  const address = $derived.by(() => {
    const given = Object.entries(settings).filter(([, value]) => value !== null) as [string, string | number][];
    const query = new URLSearchParams(given.map(([key, value]) => [key, String(value)]));
    return `/api/cards/${encodeURIComponent(card)}/preview.jpg?${query}`;
  });
  function look(): void {
    failed = false;
    shown = address;
  }
</script>

<h2 class="mb-2">Simulated devices</h2>
<p class="mb-2 font-serif">
  Stand-ins: they paint this card from the paints' own optics, take a shot, and hand over a file like any other.
</p>
<div class="space-y-2">
  <Choice
    label="Device"
    bind:value={device}
    options={[
      { value: "flatbed", label: "flatbed scanner" },
      { value: "camera", label: "camera on a stand" },
    ]}
  />
  <NamedChoice label="Light" bind:value={kinds[device]!} options={lights[device]!} />
  <div class="grid grid-cols-2 gap-2">
    {#if device === "flatbed"}
      <NamedChoice
        label="Resolution"
        bind:value={dpi}
        options={["150", "200", "300", "400", "600"].map((v) => ({ value: v, label: `${v} dpi` }))}
      />
    {:else}
      <NamedChoice
        label="File"
        bind:value={format}
        options={[
          { value: "jpeg-92", label: "JPEG" },
          { value: "tiff-16", label: "TIFF, 16 bit" },
          { value: "png-16", label: "PNG, 16 bit" },
        ]}
      />
    {/if}
    <NamedChoice
      label="Tone curve"
      bind:value={tones[device]!}
      options={curves[device]!.map((v) => ({ value: v, label: v === "camera" ? "with toe and shoulder" : v }))}
    />
    {#if device === "camera"}
      <label>
        <span class="text-faint block text-xs">Tilt, degrees</span>
        <input type="number" min="0" max="40" class="w-full" bind:value={tilt} />
      </label>
      <label>
        <span class="text-faint block text-xs">Light lost, %</span>
        <input type="number" min="0" max="90" class="w-full" bind:value={fallOff} />
      </label>
    {/if}
  </div>
  {#if device === "camera"}
    <NamedChoice
      label="Low lamp"
      bind:value={lamp}
      options={[
        { value: "none", label: "none, even light" },
        ...SIDES.map((s) => ({ value: s.value, label: lampFrom(Number(s.value)) })),
      ]}
    />
  {/if}
  <NamedChoice
    label="The card lies"
    bind:value={turn}
    options={[
      { value: "0", label: "upright" },
      { value: "90", label: "on its left side" },
      { value: "180", label: "upside down" },
      { value: "270", label: "on its right side" },
    ]}
  />
  {#if !low}
    <label class="flex items-baseline gap-2">
      <input type="checkbox" bind:checked={over} />
      <span
        >lay it over the newest flat shot <span class="text-faint text-xs">(turned round, or exposed otherwise)</span
        ></span
      >
    </label>
  {/if}
  <NamedChoice
    label="The paint"
    bind:value={moment}
    options={[
      { value: "dry", label: "dry and finished" },
      { value: "wet", label: "still wet" },
      { value: "before_lifting", label: "dry, before lifting" },
    ]}
  />
  <NamedChoice label="Spoil it" words="Spoil it, to learn what the gates say" bind:value={fault} options={possible} />
  {#if shown}
    {#if failed}
      <p class="font-serif">No preview: the settings are out of range, or a paint has no simulated optics.</p>
    {:else}
      <img
        src={shown}
        alt="What the device sees"
        class="block w-full {shown === address ? '' : 'opacity-60'}"
        onerror={() => (failed = true)}
      />
    {/if}
  {/if}
  <div class="flex gap-2">
    <Button onclick={look} disabled={!paintable}>Preview</Button>
    <Button onclick={() => ontake(settings)} disabled={!paintable} primary>Take the shot</Button>
  </div>
  {#if !paintable}<p class="text-faint text-xs">A paint on this card has no simulated optics.</p>{/if}
</div>
