"""The zones of one swatch, measured: found by kind, and the fine pixels on which texture is judged."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.measure.granulation import PaperTexture
from gelvet.core.measure.values import Absent, DilutionPath, ZoneColour, ZonePixels, tint_depth
from gelvet.core.measure.zone_colour import edge_of, without_foreign_matter, zone_pixels

_GRAIN_FROM, _GRAIN_TO = 0.25, 0.60


@dataclass(frozen=True, slots=True)
class Paper:
    """The bare paper of the capture: pooled colour and texture, and where it lies."""

    colour: ZoneColour
    texture: PaperTexture | None
    places: tuple[Rect, ...] = ()


@dataclass(frozen=True, slots=True)
class MeasuredZone:
    zone: Zone
    pixels: ZonePixels
    colour: ZoneColour | Absent


@dataclass(frozen=True, slots=True)
class SwatchZones:
    """By kind, in the card's order."""

    by_kind: Mapping[str, Sequence[MeasuredZone]] = field(default_factory=dict)

    def all(self, kind: str) -> Sequence[MeasuredZone]:
        return self.by_kind.get(kind, ())

    def first(self, kind: str, strength: str | None = None) -> MeasuredZone | None:
        """The first zone of a kind; with `strength` ("heavy", "light") only one painted so."""
        return next((z for z in self.all(kind) if strength is None or z.zone.extra.get("strength") == strength), None)

    def plain(self, kind: str) -> MeasuredZone | None:
        """The first zone of a kind that is not one of its light variant."""
        return next((z for z in self.all(kind) if z.zone.extra.get("strength") != "light"), None)

    def places(self) -> dict[str, list[Zone]]:
        return {kind: [m.zone for m in measured] for kind, measured in self.by_kind.items()}


@dataclass(frozen=True, slots=True)
class Texture:
    """Pixels at full resolution on which grain and separation are judged, of which kind and where they are."""

    pixels: ZonePixels
    kind: str
    rect: Rect


def colour_of(measured: MeasuredZone | None, kind: str) -> ZoneColour | Absent:
    """A zone's colour, or why there is none."""
    if measured is None:
        return Absent(f"the card has no {kind} zone for this paint")
    return Absent(f"{kind}: {measured.colour.reason}") if isinstance(measured.colour, Absent) else measured.colour


def texture_of(capture: CalibratedCapture, zone: Zone, kind: str, paper: Floats) -> Texture:
    """The zone at full resolution, less what does not belong."""
    pixels = without_foreign_matter(zone_pixels(capture, zone, full_resolution=True), kind, paper)
    return Texture(pixels, kind, zone.rect.inset(edge_of(zone.rect)))


def wash_texture(capture: CalibratedCapture, zones: SwatchZones, paper: Floats, path: DilutionPath | Absent) -> Texture | Absent:
    """The wash, else the stretch of the gradient between 0.25 and 0.6 of the masstone's depth."""
    chosen = next((z for z in zones.all("wash") if z.zone.extra.get("strength") != "heavy"), None)
    if chosen is not None:
        return texture_of(capture, chosen.zone, "wash", paper)
    gradient = zones.first("gradient")
    if gradient is None or isinstance(path, Absent):
        return Absent("the card has neither a wash nor a gradient zone for this paint")
    part = _stretch(gradient, paper, path.masstone_depth)
    if part is None:
        return Absent("the gradient has no stretch of middle depth to judge grain on")
    return texture_of(capture, part, "gradient", paper)


def _stretch(gradient: MeasuredZone, paper: Floats, masstone_depth: float) -> Zone | None:
    """The part of the gradient between 0.25 and 0.6 of the masstone's depth, as a zone."""
    vertical = "y" in (gradient.zone.axis or "+x")
    lines = gradient.pixels.xyz.mean(axis=1 if vertical else 0)
    depth = np.convolve(tint_depth(lines, paper), np.ones(9) / 9, mode="same")
    inside = np.flatnonzero((depth >= _GRAIN_FROM * masstone_depth) & (depth <= _GRAIN_TO * masstone_depth))
    if len(inside) < 10:
        return None
    return part_of(gradient.zone, inside[0] / len(lines), (inside[-1] + 1) / len(lines))


def part_of(zone: Zone, low: float, high: float) -> Zone:
    """A gradient between two shares of its length, from the card's left or top."""
    rect = zone.rect
    if "y" in (zone.axis or "+x"):
        part = Rect(rect.x, rect.y + low * rect.height, rect.width, (high - low) * rect.height)
    else:
        part = Rect(rect.x + low * rect.width, rect.y, (high - low) * rect.width, rect.height)
    return Zone(id=zone.id, kind=zone.kind, rect=part, swatch=zone.swatch, axis=zone.axis)
