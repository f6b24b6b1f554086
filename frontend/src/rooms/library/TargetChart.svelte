<script lang="ts">
  import { targetHistoryQuery } from "../../lib/api/queries";
  import { linear, polyline } from "../../lib/charts/scales";

  interface Props {
    target: number;
  }
  let { target }: Props = $props();
  const history = targetHistoryQuery(() => target);
  const points = $derived(history.data ?? []);
  const devices = $derived([...new Set(points.map((p) => p.device))]);
  const top = $derived(Math.max(3, ...points.map((p) => p.mean_de00)));
  const width = 620;
  const height = 130;
  const x = $derived(linear([0, Math.max(points.length - 1, 1)], [36, width - 12]));
  const y = $derived(linear([0, top], [height - 18, 8]));
  const drifted = $derived(points.filter((p) => p.drift === "warn" || p.drift === "fail"));
  // Each device has a line and a mark of its own; one capture alone makes no line.
  const dashes = ["none", "6 3", "2 3", "9 3 2 3"];
  const marks = [
    "M-1 0a1 1 0 1 0 2 0a1 1 0 1 0-2 0",
    "M-1-1h2v2h-2z",
    "M0-1.3L1.3 0 0 1.3-1.3 0z",
    "M0-1.2L1.2.9H-1.2z",
  ];
  const words = ["● solid line", "■ dashes", "◆ dots", "▲ dash and dot"];
</script>

{#if points.length === 0}
  <p class="text-faint">No capture has been measured with this target yet.</p>
{:else}
  <svg {width} {height} role="img" class="block">
    <title>Mean left-out difference of the patches over {points.length} captures, ΔE00</title>
    {#each y.ticks(3) as tick (tick)}
      <line x1="36" x2={width - 12} y1={y(tick)} y2={y(tick)} stroke="currentColor" stroke-opacity="0.15" />
      <text x="30" y={y(tick) + 4} text-anchor="end" class="text-xs">{tick}</text>
    {/each}
    {#each devices as device, index (device)}
      {@const own = points.map((p, i) => ({ ...p, i })).filter((p) => p.device === device)}
      <polyline
        points={polyline(own.map((p) => [x(p.i), y(p.mean_de00)] as const))}
        fill="none"
        stroke="currentColor"
        stroke-dasharray={dashes[index % dashes.length]}
      />
    {/each}
    {#each points as point, index (point.capture)}
      {@const bad = point.drift === "warn" || point.drift === "fail"}
      <a href="/capture/{point.card_id}" aria-label="Capture {point.capture}, {point.mean_de00.toFixed(2)} ΔE00">
        <path
          d={marks[devices.indexOf(point.device) % marks.length]}
          transform="translate({x(index)} {y(point.mean_de00)}) scale({bad ? 6 : 4})"
          vector-effect="non-scaling-stroke"
          fill={bad ? "white" : "currentColor"}
          stroke="currentColor"
          stroke-width={bad ? 2 : 0}
        />
      </a>
    {/each}
    <text x="36" y={height - 3} class="text-xs">earliest</text>
    <text x={width - 12} y={height - 3} text-anchor="end" class="text-xs">latest</text>
  </svg>
  <p class="text-faint text-xs">
    How far the patches miss their values when each is left out of the fit, ΔE00, capture by capture: {devices
      .map((d, i) => `${words[i % words.length]}: ${d}`)
      .join("; ")}. A step up means that the target, the glass or the device has changed.
  </p>
  {#each drifted.slice(-2) as point (point.capture)}
    <p class="font-serif">△ capture {point.capture}: {point.advice}</p>
  {/each}
{/if}
