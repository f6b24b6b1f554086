"""A painted, dried card at fine resolution, as spectral channels, and what is true of it."""

from dataclasses import dataclass, field

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.code import code_modules
from gelvet.core.card.dictionary import tag_modules
from gelvet.core.card.layout import Layout, Rect, Zone
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.flakes import Flakes, scatter_flakes
from gelvet.core.simulate.paint import LayerTable, SimulatedPaint, layer_table, mixed_on_the_palette, pigment_amounts
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, ink_reflectance, paper_reflectance, patch_spectra
from gelvet.core.simulate.texture import paper_relief, smooth_noise


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
    applied: dict[str, "Application"] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Application:
    """How heavily a swatch was painted: amounts of paint at its places."""

    masstone: float
    gradient_end: float
    wash: float
    over: float
    lift: float


def paint_card(
    layout: Layout,
    paints: dict[str, SimulatedPaint],
    device_weights: Floats,
    *,
    seed: int,
    pixels_per_mm: float,
    warmth: float = 0.5,
    target_seed: int | None = None,
) -> PaintedCard:
    """Paints `paints` (by swatch id) on `layout`, seen through `device_weights` (n, 3).

    `target_seed` names the reference target that lies on the card; without it each card has its own.
    """
    rng = np.random.default_rng(seed)
    weights = np.concatenate([device_weights, observer_d50(WAVELENGTHS_NM)], axis=1)
    paper, ink = paper_reflectance(warmth), ink_reflectance()
    shape = (round(layout.size_mm[1] * pixels_per_mm), round(layout.size_mm[0] * pixels_per_mm))
    canvas = _Canvas(np.tile((paper @ device_weights).astype(np.float32), (*shape, 1)), pixels_per_mm)
    relief = paper_relief(shape, rng, pixels_per_mm)
    patches = patch_spectra(len(layout.patches), np.random.default_rng([2, seed if target_seed is None else target_seed]))
    _print_card(canvas, layout, patches @ device_weights, (ink * 0.9) @ device_weights)
    zone_xyz: dict[str, Floats] = {}
    applied = {}
    for swatch_id, paint in paints.items():
        applied[swatch_id] = application = _apply(paint, rng)
        tables = {"paper": layer_table(paint, paper, weights), "ink": layer_table(paint, ink, weights)}
        for zone in (z for z in layout.zones if z.swatch == swatch_id):
            channels = _zone_channels(zone, paint, application, tables, canvas, relief, rng, ink @ weights)
            if channels is not None:
                canvas.paste(zone.rect.inset(-0.4), channels[..., :3])
                zone_xyz[zone.id] = channels[..., 3:6]
    for zone in layout.zones_of("mix"):
        mixture = mixed_on_the_palette([(paints[swatch], float(share)) for swatch, share in zone.extra["parts"]])
        tables = {"paper": layer_table(mixture, paper, weights)}
        channels = _zone_channels(zone, mixture, _apply(mixture, rng), tables, canvas, relief, rng, ink @ weights)
        if channels is not None:
            canvas.paste(zone.rect.inset(-0.4), channels[..., :3])
            zone_xyz[zone.id] = channels[..., 3:6]
    return PaintedCard(
        layout=layout, pixels_per_mm=pixels_per_mm, device=canvas.pixels, relief=relief,
        paper_xyz=paper @ observer_d50(WAVELENGTHS_NM), ink_xyz=ink @ observer_d50(WAVELENGTHS_NM),
        zone_xyz=zone_xyz, patch_reflectance=patches, paints=paints, flakes=scatter_flakes(layout, paints, rng), applied=applied,
    )  # fmt: skip


def _apply(paint: SimulatedPaint, rng: np.random.Generator) -> Application:
    masstone = paint.masstone_amount
    return Application(
        masstone=masstone,
        gradient_end=masstone * float(rng.uniform(0.015, 0.06)),
        wash=masstone * float(rng.uniform(0.05, 0.11)),
        over=masstone * float(rng.uniform(0.5, 0.9)),
        lift=masstone * float(rng.uniform(0.25, 0.45)),
    )


def _zone_channels(
    zone: Zone,
    paint: SimulatedPaint,
    application: Application,
    tables: dict[str, LayerTable],
    canvas: "_Canvas",
    relief: Floats,
    rng: np.random.Generator,
    ink: Floats,
) -> Floats | None:
    """Channels (h, w, 6) of one zone, or None where nothing is painted."""
    rows, columns = canvas.slices(zone.rect.inset(-0.4))
    shape = (rows.stop - rows.start, columns.stop - columns.start)
    if zone.kind == "ink":
        return np.tile(ink.astype(np.float32), (*shape, 1))
    amount = _amount(zone, application, shape, canvas.pixels_per_mm, rng)
    if amount is None:
        return None
    layers = []
    for pigment, mean in zip(paint.pigments, pigment_amounts(paint, amount), strict=True):
        left = pigment.staining if zone.kind == "lifted" else 1.0
        if zone.kind == "exposed":
            left = (1 - pigment.fading) ** (float(zone.extra.get("hours", 0.0)) / 1000)
        own = smooth_noise(shape, rng, pigment.clump_mm * 0.42 * canvas.pixels_per_mm)
        grain = -pigment.settling * relief[rows, columns] + np.sqrt(1 - pigment.settling**2) * own
        # Grain is plainest in washes: heavy colour levels itself.
        strength = pigment.grain / (1 + 0.6 * mean)
        layers.append(left * mean * np.exp(strength * grain - strength**2 / 2))
    return tables["ink" if zone.kind == "over_ink" else "paper"].look_up(layers)


def _amount(zone: Zone, application: Application, shape: tuple[int, int], pixels_per_mm: float, rng: np.random.Generator) -> Floats | None:
    """Nominal amount of paint (h, w) with a hand's slow unevenness."""
    level: Floats
    match zone.kind:
        case "masstone":
            level = np.full(shape, application.masstone)
        case "wash":
            level = np.full(shape, application.masstone * 0.45 if zone.extra.get("strength") == "heavy" else application.wash)
        case "step":
            level = np.full(shape, application.masstone * float(zone.extra["dilution"]))
        case "glaze":
            level = np.full(shape, application.masstone * 0.12 * int(zone.extra["layers"]))
        case "mix":
            level = np.full(shape, application.masstone * 0.6)
        case "over_ink" | "beside_ink":
            level = np.full(shape, application.over)
        case "unlifted" | "lifted" | "covered" | "exposed":
            level = np.full(shape, application.lift)
        case "gradient":
            along = np.linspace(0, 1, shape[0 if "y" in (zone.axis or "+x") else 1])
            along = along[::-1] if (zone.axis or "+x").startswith("-") else along
            ramp = application.masstone * (application.gradient_end / application.masstone) ** (along ** float(rng.uniform(0.8, 1.2)))
            level = np.broadcast_to(ramp[:, None] if "y" in (zone.axis or "+x") else ramp[None], shape)
        case _:
            return None
    even = zone.kind in {"over_ink", "beside_ink", "unlifted", "lifted", "covered", "exposed", "mix"}
    hand = smooth_noise(shape, rng, 4.0 * pixels_per_mm) * (0.008 if even else 0.025)
    return np.asarray(level * (1 + hand), dtype=np.float32)


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
