<script lang="ts">
  import { onMount } from "svelte";
  import type { Viewer } from "openseadragon";
  import type { LayoutDocument } from "../api/measurement";
  import { holds, onCard, toCard, type Placement } from "./placement";
  import ZoneOverlay from "./ZoneOverlay.svelte";

  interface Props {
    capture: number;
    version: string;
    scale: { pixels_per_mm: number; width: number; height: number };
    layout: LayoutDocument;
    selected: string | null;
    showZones: boolean;
    /** Height (px from the viewer's top) at which the notebook speaks of the selected zone. */
    noteAt: number | null;
    onselect: (zone: string | null) => void;
    onpoint: (place: { x: number; y: number } | null) => void;
    onview: (view: string) => void;
    /** Screen pixels a millimetre, whenever the view changes. */
    onscale: (pixelsPerMm: number) => void;
    view: string | null;
  }
  let {
    capture,
    version,
    scale,
    layout,
    selected,
    showZones,
    noteAt,
    onselect,
    onpoint,
    onview,
    onscale,
    view,
  }: Props = $props();
  let host: HTMLDivElement;
  type Library = typeof import("openseadragon");
  let library: Library | undefined;
  let viewer: Viewer | undefined;
  let placement = $state<Placement | null>(null);
  let width = $state(0);
  let height = $state(0);
  /** What was asked before the picture was there, in order. */
  let waiting: (() => void)[] = [];

  function onceOpen(act: () => void): void {
    if (placement) act();
    else waiting.push(act);
  }

  function follow(): void {
    const item = viewer?.world.getItemAt(0);
    if (!library || !item) return;
    const origin = item.imageToViewerElementCoordinates(new library.Point(0, 0));
    const far = item.imageToViewerElementCoordinates(new library.Point(scale.width, 0));
    placement = {
      pixelsPerMm: ((far.x - origin.x) / scale.width) * scale.pixels_per_mm,
      left: origin.x,
      top: origin.y,
    };
    onscale(placement.pixelsPerMm);
  }

  function report(): void {
    if (!viewer) return;
    const bounds = viewer.viewport.getBounds();
    onview([bounds.x, bounds.y, bounds.width].map((v) => v.toFixed(4)).join(","));
  }

  /** Zooms so that the zone and its neighbourhood fill the view. */
  export function showZone(id: string): void {
    onceOpen(() => bringToView(id));
  }
  function bringToView(id: string): void {
    const zone = layout.zones.find((z) => z.id === id);
    if (!zone || !viewer || !library) return;
    const [x, y, w, h] = zone.rect_mm;
    const unit = scale.pixels_per_mm / scale.width;
    const margin = Math.max(w, h) * 0.4;
    viewer.viewport.fitBounds(
      new library.Rect((x - margin) * unit, (y - margin) * unit, (w + 2 * margin) * unit, (h + 2 * margin) * unit),
    );
  }
  export function showAll(): void {
    onceOpen(() => viewer?.viewport.goHome());
  }

  /** Points at the place under the middle of the view, for people without a pointer. */
  export function pointAtMiddle(): void {
    onceOpen(() => pointAt(width / 2, height / 2));
  }
  function pointAt(left: number, top: number): void {
    if (!placement) return;
    const [x, y] = toCard(placement, left, top);
    onpoint(onCard(layout.size_mm, x, y) ? { x, y } : null);
  }

  onMount(() => {
    let gone = false;
    void import("openseadragon").then(({ default: osd }) => {
      if (gone) return;
      library = osd;
      const top = Math.ceil(Math.log2(Math.max(scale.width, scale.height)));
      viewer = osd({
        element: host,
        drawer: "canvas",
        showNavigationControl: false,
        animationTime: matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : 0.5,
        gestureSettingsMouse: { clickToZoom: false, dblClickToZoom: true },
        maxZoomPixelRatio: 12,
        imageSmoothingEnabled: false,
        visibilityRatio: 0.3,
        tileSources: {
          width: scale.width,
          height: scale.height,
          tileSize: 256,
          tileOverlap: 0,
          minLevel: 0,
          maxLevel: top,
          getTileUrl: (level: number, column: number, row: number) =>
            `/api/captures/${capture}/tiles/${level}/${column}/${row}?v=${version}`,
        } as never,
      });
      viewer.addHandler("open", () => {
        const parts = view?.split(",").map(Number) ?? [];
        const [x, y, w] = parts;
        if (parts.length === 3 && parts.every(Number.isFinite) && viewer) {
          const shape = viewer.viewport.getAspectRatio();
          viewer.viewport.fitBounds(new osd.Rect(x!, y!, w!, w! / shape), true);
        }
        follow();
        for (const act of waiting.splice(0)) act();
      });
      for (const name of ["update-viewport", "animation", "resize"] as const) viewer.addHandler(name, follow);
      viewer.addHandler("animation-finish", report);
      viewer.addHandler("canvas-click", (event) => {
        if (!event.quick || !placement) return;
        const [x, y] = toCard(placement, event.position.x, event.position.y);
        onselect(layout.zones.find((z) => holds(z.rect_mm, x, y))?.id ?? null);
      });
    });
    return () => {
      gone = true;
      viewer?.destroy();
    };
  });

  function point(event: PointerEvent): void {
    const box = host.getBoundingClientRect();
    pointAt(event.clientX - box.left, event.clientY - box.top);
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions (the zones can all be reached in the notebook's list) -->
<div
  class="relative h-full w-full overflow-hidden"
  bind:clientWidth={width}
  bind:clientHeight={height}
  onpointermove={point}
  onpointerleave={() => onpoint(null)}
>
  <div
    bind:this={host}
    class="absolute inset-0"
    aria-label="Card {layout.card_id}, calibrated; arrow keys move it, plus and minus zoom"
  ></div>
  {#if placement}
    <ZoneOverlay {layout} {placement} {width} {height} {selected} {showZones} {noteAt} />
  {/if}
</div>
