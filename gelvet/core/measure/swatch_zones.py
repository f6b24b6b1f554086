"""The zones of one swatch, measured: found by kind, and the fine pixels on which texture is judged."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.measure.grain.granulation import PaperTexture
from gelvet.core.measure.quantities.colour import DilutionPath
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels, tint_depth
from gelvet.core.measure.zone.foreign_matter import without_foreign_matter
from gelvet.core.measure.zone.light import edge_of

_GRAIN_FROM, _GRAIN_TO = 0.25, 0.60
_LINES_TOGETHER = 9


@dataclass(frozen=True, slots=True)
class Paper:
    """The bare paper of the capture: pooled colour and texture, and where it lies."""

    colour: ZoneColour
    texture: PaperTexture | None
    places: tuple[Rect, ...] = ()


@dataclass(frozen=True, slots=True)
class MeasuredZone:
    """`pixels` as fine as a mean needs; `fine` at the capture's own resolution, for kinds whose texture is judged."""

    zone: Zone
    pixels: ZonePixels
    colour: ZoneColour | Absent
    fine: ZonePixels | None = None


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
        """The first zone of a kind that is neither its light variant nor one of several layers."""
        return next((z for z in self.all(kind) if z.zone.extra.get("strength") != "light" and "layers" not in z.zone.extra), None)

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


def texture_of(measured: MeasuredZone, paper: Floats, part: tuple[float, float] = (0.0, 1.0)) -> Texture | None:
    """The zone at full resolution, less what does not belong; of a gradient a `part` of its length, from the card's left or
    top. None for kinds without texture."""
    if measured.fine is None:
        return None
    pixels, rect = measured.fine, measured.zone.rect.inset(edge_of(measured.zone.rect))
    if part != (0.0, 1.0):
        pixels, rect = _cut(pixels, rect, part, vertical="y" in (measured.zone.axis or "+x"))
    kind = measured.zone.kind
    return Texture(without_foreign_matter(pixels, kind, paper, for_grain=True), kind, rect)


def _cut(pixels: ZonePixels, rect: Rect, part: tuple[float, float], *, vertical: bool) -> tuple[ZonePixels, Rect]:
    count = pixels.good.shape[0 if vertical else 1]
    first, last = (round(share * count) for share in part)
    low, high = first / count, last / count
    if vertical:
        inside, rest = np.s_[first:last], Rect(rect.x, rect.y + low * rect.height, rect.width, (high - low) * rect.height)
        return replace(pixels, xyz=pixels.xyz[inside], good=pixels.good[inside]), rest
    rest = Rect(rect.x + low * rect.width, rect.y, (high - low) * rect.width, rect.height)
    return replace(pixels, xyz=pixels.xyz[:, first:last], good=pixels.good[:, first:last]), rest


def wash_texture(zones: SwatchZones, paper: Floats, path: DilutionPath | Absent) -> Texture | Absent:
    """The wash, else the stretch of the gradient between 0.25 and 0.6 of the masstone's depth."""
    chosen = next((z for z in zones.all("wash") if z.zone.extra.get("strength") != "heavy"), None)
    if chosen is not None and (texture := texture_of(chosen, paper)) is not None:
        return texture
    gradient = zones.first("gradient")
    if gradient is None or isinstance(path, Absent):
        return Absent("the card has neither a wash nor a gradient zone for this paint")
    part = _stretch(gradient, paper, path.masstone_depth)
    texture = None if part is None else texture_of(gradient, paper, part)
    return texture or Absent("the gradient has no stretch of middle depth to judge grain on")


def _stretch(gradient: MeasuredZone, paper: Floats, masstone_depth: float) -> tuple[float, float] | None:
    """Where along the gradient it is between 0.25 and 0.6 of the masstone's depth, as shares of its length."""
    vertical = "y" in (gradient.zone.axis or "+x")
    lines = gradient.pixels.xyz.mean(axis=1 if vertical else 0)
    width = min(_LINES_TOGETHER, len(lines))
    padded = np.pad(tint_depth(lines, paper), (width // 2, width - 1 - width // 2), mode="edge")
    depth = np.convolve(padded, np.ones(width) / width, mode="valid")
    inside = np.flatnonzero((depth >= _GRAIN_FROM * masstone_depth) & (depth <= _GRAIN_TO * masstone_depth))
    if len(inside) < 10:
        return None
    # A streak at one end may be as pale: the longest stretch is the gradient's own.
    inside = max(np.split(inside, np.flatnonzero(np.diff(inside) > 1) + 1), key=len)
    return inside[0] / len(lines), (inside[-1] + 1) / len(lines)
