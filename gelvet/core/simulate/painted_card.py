"""A painted, dried card at fine resolution, as spectral channels, and what is true of it."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.code import code_modules
from gelvet.core.card.dictionary import tag_modules
from gelvet.core.card.layout import Layout, Rect, Zone
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.application import Application, amount_of_paint, apply_paint, parted
from gelvet.core.simulate.flakes import Flakes, scatter_flakes
from gelvet.core.simulate.paint import LayerTable, SimulatedPaint, layer_table, mixed_on_the_palette, pigment_amounts
from gelvet.core.simulate.spectra import (
    WAVELENGTHS_NM,
    TargetKind,
    black_paper_reflectance,
    ink_reflectance,
    paper_reflectance,
    target_spectra,
)
from gelvet.core.simulate.texture import paper_relief, smooth_noise

State = Literal["dry", "wet", "before_lifting"]
_GROUNDS = {"over_ink": "ink", "black_paper": "black_paper"}


@dataclass(frozen=True, slots=True, kw_only=True)
class PaintedCard:
    """`device` (h, w, 3) linear device channels, 1 for a perfect white; `xyz` per painted zone for the truth."""

    layout: Layout
    pixels_per_mm: float
    device: Floats
    relief: Floats
    paper_xyz: Floats
    ink_xyz: Floats
    zone_xyz: dict[str, Floats]
    patch_reflectance: Floats
    paints: dict[str, SimulatedPaint]
    flakes: Flakes
    applied: dict[str, Application] = field(default_factory=dict)
    state: State = "dry"


def paint_card(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    device_weights: Floats,
    *,
    seed: int,
    pixels_per_mm: float,
    warmth: float = 0.5,
    target: TargetKind = "many-inks",
    target_seed: int | None = None,
    state: State = "dry",
) -> PaintedCard:
    """Paints `paints` (by swatch id) on `layout`, seen through `device_weights` (n, 3).

    `target` is the kind of the reference target that lies on the card, `target_seed` names it; without it each card has its
    own. The same seed gives the same card in each `state`: still wet, dry, or dry but not lifted yet.
    """
    rng = np.random.default_rng(seed)
    weights = np.concatenate([device_weights, observer_d50(WAVELENGTHS_NM)], axis=1)
    paper, ink = paper_reflectance(warmth), ink_reflectance()
    shape = (round(layout.size_mm[1] * pixels_per_mm), round(layout.size_mm[0] * pixels_per_mm))
    canvas = _Canvas(np.tile((paper @ device_weights).astype(np.float32), (*shape, 1)), pixels_per_mm)
    relief = paper_relief(shape, rng, pixels_per_mm)
    grounds = {"paper": paper, "ink": ink}
    if layout.zones_of("black_paper"):
        grounds["black_paper"] = black_paper_reflectance()
        for zone in layout.zones_of("black_paper"):
            canvas.paste(zone.rect.inset(-1.5), (grounds["black_paper"] @ device_weights).astype(np.float32))
    patches = target_on(layout, target, seed if target_seed is None else target_seed)
    _print_card(canvas, layout, patches @ device_weights, (ink * 0.9) @ device_weights)
    zone_xyz: dict[str, Floats] = {}
    applied = {}
    for swatch_id, paint in paints.items():
        applied[swatch_id] = application = apply_paint(paint, rng)
        wet = state == "wet"
        tables = {name: layer_table(paint, under, weights, wet=wet) for name, under in grounds.items()}
        for zone in (z for z in layout.zones if z.swatch == swatch_id):
            channels = _zone_channels(zone, paint, application, tables, canvas, relief, rng, ink @ weights, state)
            if channels is not None:
                canvas.paste(zone.rect.inset(-0.4), channels[..., :3])
                zone_xyz[zone.id] = channels[..., 3:6]
    for zone in layout.zones_of("mix"):
        mixture = mixed_on_the_palette([(paints[swatch], float(share)) for swatch, share in zone.extra["parts"]])
        tables = {"paper": layer_table(mixture, paper, weights)}
        channels = _zone_channels(zone, mixture, apply_paint(mixture, rng), tables, canvas, relief, rng, ink @ weights, state)
        if channels is not None:
            canvas.paste(zone.rect.inset(-0.4), channels[..., :3])
            zone_xyz[zone.id] = channels[..., 3:6]
    if state == "dry":
        relief = _scrubbed(relief, layout, paints, canvas, np.random.default_rng([seed, 8]))
    return PaintedCard(
        layout=layout, pixels_per_mm=pixels_per_mm, device=canvas.pixels, relief=relief,
        paper_xyz=paper @ observer_d50(WAVELENGTHS_NM), ink_xyz=ink @ observer_d50(WAVELENGTHS_NM),
        zone_xyz=zone_xyz, patch_reflectance=patches, paints=paints, flakes=scatter_flakes(layout, paints, rng),
        applied=applied, state=state,
    )  # fmt: skip


def target_on(layout: Layout, kind: TargetKind, seed: int) -> Floats:
    """Reflectances (n, wavelengths) of the layout's patches on the target of that seed."""
    return target_spectra(kind, len(layout.patches), np.random.default_rng([2, seed]))


def _zone_channels(
    zone: Zone,
    paint: SimulatedPaint,
    application: Application,
    tables: dict[str, LayerTable],
    canvas: "_Canvas",
    relief: Floats,
    rng: np.random.Generator,
    ink: Floats,
    state: State,
) -> Floats | None:
    """Channels (h, w, 6) of one zone, or None where nothing is painted."""
    rows, columns = canvas.slices(zone.rect.inset(-0.4))
    shape = (rows.stop - rows.start, columns.stop - columns.start)
    if zone.kind == "ink":
        return np.tile(ink.astype(np.float32), (*shape, 1))
    amount = amount_of_paint(zone, paint, application, shape, canvas.pixels_per_mm, rng)
    if amount is None:
        return None
    layers = []
    means = pigment_amounts(paint, amount)
    carried = parted(zone, paint, shape, canvas.pixels_per_mm)
    if carried is not None:
        means = [mean * times for mean, times in zip(means, carried, strict=True)]
    for pigment, mean in zip(paint.pigments, means, strict=True):
        left = pigment.staining if zone.kind == "lifted" and state == "dry" else 1.0
        if zone.kind == "exposed":
            left = (1 - pigment.fading) ** (float(zone.extra.get("hours", 0.0)) / 1000)
        own = smooth_noise(shape, rng, pigment.clump_mm * 0.42 * canvas.pixels_per_mm)
        grain = -pigment.settling * relief[rows, columns] + np.sqrt(1 - pigment.settling**2) * own
        # Grain is plainest in washes: heavy colour levels itself.
        strength = pigment.grain / (1 + 0.6 * mean)
        layers.append(left * mean * np.exp(strength * grain - strength**2 / 2))
    return tables[_GROUNDS.get(zone.kind, "paper")].look_up(layers)


def _scrubbed(relief: Floats, layout: Layout, paints: dict[str, SimulatedPaint], canvas: "_Canvas", rng: np.random.Generator) -> Floats:
    """The card's relief (h, w) with the fibres that lifting raised."""
    rough = relief.copy()
    for zone in layout.zones_of("lifted"):
        scuffs = paints[zone.swatch].scuffs if zone.swatch in paints else 0.0
        if scuffs:
            rows, columns = canvas.slices(zone.rect.inset(-0.4))
            fibres = paper_relief(rough[rows, columns].shape, rng, canvas.pixels_per_mm)
            rough[rows, columns] += fibres * np.sqrt((1 + scuffs) ** 2 - 1)
    return rough


class _Canvas:
    """The card's pixels; rectangles are drawn with exact area coverage at their edges."""

    def __init__(self, pixels: Floats, pixels_per_mm: float) -> None:
        self.pixels = pixels
        self.pixels_per_mm = pixels_per_mm

    def slices(self, rect: Rect) -> tuple[slice, slice]:
        s = self.pixels_per_mm
        height, width = self.pixels.shape[:2]
        return (
            slice(max(0, round(rect.y * s)), min(height, round(rect.bottom * s))),
            slice(max(0, round(rect.x * s)), min(width, round(rect.right * s))),
        )

    def paste(self, rect: Rect, channels: Floats) -> None:
        rows, columns = self.slices(rect)
        self.pixels[rows, columns] = channels

    def fill(self, rect: Rect, colour: Floats) -> None:
        s = self.pixels_per_mm
        rows = slice(max(0, int(rect.y * s)), min(self.pixels.shape[0], int(np.ceil(rect.bottom * s))))
        columns = slice(max(0, int(rect.x * s)), min(self.pixels.shape[1], int(np.ceil(rect.right * s))))
        tall = _coverage(rows, rect.y * s, rect.bottom * s)
        wide = _coverage(columns, rect.x * s, rect.right * s)
        share = (tall[:, None] * wide[None])[..., None]
        area = self.pixels[rows, columns]
        self.pixels[rows, columns] = area + share * (np.asarray(colour, dtype=np.float32) - area)


def _coverage(cells: slice, start: float, stop: float) -> Floats:
    """Share of each pixel cell that lies between `start` and `stop`."""
    low = np.arange(cells.start, cells.stop, dtype=np.float32)
    return np.asarray(np.clip(np.minimum(low + 1, stop) - np.maximum(low, start), 0, 1), dtype=np.float32)


def _print_card(canvas: _Canvas, layout: Layout, patches: Floats, black: Floats) -> None:
    """What the printer lays down before any paint: tags, patches, the card code and rows of label text."""
    for tag in layout.tags:
        _draw_modules(canvas, tag.rect, tag_modules(tag.id), black)
    for patch, colour in zip(layout.patches, patches, strict=True):
        canvas.fill(patch.rect, colour)
    if "code" in layout.extra:
        _draw_modules(canvas, Rect(*layout.extra["code"]["rect_mm"]), code_modules(layout.card_id), black)
    rng = np.random.default_rng(len(layout.card_id))
    for zone in layout.zones_of("masstone"):
        x = zone.rect.x
        while x < zone.rect.x + 45:  # strokes stand for the letters of a label
            canvas.fill(Rect(x, zone.rect.y - 3, 0.25, float(rng.uniform(1.0, 1.8))), black)
            x += float(rng.uniform(0.6, 1.4))


def _draw_modules(canvas: _Canvas, rect: Rect, modules: Floats, black: Floats) -> None:
    """Coverage is added up over all modules before the ink is laid, so that no seam shows between them."""
    size = rect.width / modules.shape[1]
    rows, columns = canvas.slices(rect.inset(-1))
    s = canvas.pixels_per_mm
    tall = np.stack([_coverage(rows, (rect.y + i * size) * s, (rect.y + (i + 1) * size) * s) for i in range(len(modules))])
    wide = np.stack([_coverage(columns, (rect.x + i * size) * s, (rect.x + (i + 1) * size) * s) for i in range(len(modules))])
    share = (tall.T @ modules.astype(np.float32) @ wide)[..., None]
    area = canvas.pixels[rows, columns]
    canvas.pixels[rows, columns] = area + share * (np.asarray(black, dtype=np.float32) - area)
