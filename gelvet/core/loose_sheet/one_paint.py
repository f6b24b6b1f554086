"""Places that are one paint's: a gradient with the masstone at its deep end and the wash at its pale one."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.layout import Rect
from gelvet.core.loose_sheet.found_swatches import FoundSwatch
from gelvet.core.loose_sheet.paint_depth import SheetDepth

End = Literal["masstone", "wash"]
# How far off an end may lie, as a share of the gradient's breadth: what pales into the paper is seen to stop before it does.
_FAR: dict[End, float] = {"masstone": 0.5, "wash": 1.3}
# Two places are in one line if so much of the broader one is beside the other.
_BESIDE = 0.6
# Densities of one paint go together so well (cosine of the angle between them).
_OF_ONE_COLOUR = 0.98


@dataclass(frozen=True, slots=True)
class PaintedPart:
    """A place, and what of its paint it is."""

    kind: Literal["masstone", "gradient", "wash"]
    place: FoundSwatch


def parts_of_paints(found: Sequence[FoundSwatch], sheet: SheetDepth) -> list[list[PaintedPart]]:
    """The parts of each paint, in the order of `found`; what belongs to no gradient is a masstone by itself."""
    free = [place for place in found if place.axis is None]
    paint_of: dict[FoundSwatch, list[PaintedPart]] = {}
    for gradient in (place for place in found if place.axis is not None):
        parts = [PaintedPart("gradient", gradient)]
        masstone = _at_the_end(gradient, "masstone", free, sheet)
        wash = _at_the_end(gradient, "wash", [place for place in free if place is not masstone], sheet)
        if masstone is not None:
            parts.insert(0, PaintedPart("masstone", masstone))
        if wash is not None:
            parts.append(PaintedPart("wash", wash))
        free = [place for place in free if place not in (masstone, wash)]
        paint_of |= {part.place: parts for part in parts}
    paints: list[list[PaintedPart]] = []
    for place in found:
        parts = paint_of.get(place, [PaintedPart("masstone", place)])
        if parts not in paints:
            paints.append(parts)
    return paints


def _at_the_end(gradient: FoundSwatch, kind: End, others: Sequence[FoundSwatch], sheet: SheetDepth) -> FoundSwatch | None:
    """The nearest of the `others` that is this end of the gradient's paint."""
    near = [(gap, place) for place in others if (gap := _gap(gradient, place, kind)) <= _FAR[kind]]
    if not near:
        return None
    place = min(near, key=lambda one: one[0])[1]
    goes_on = place.depth > gradient.depth if kind == "masstone" else place.depth < gradient.depth
    alike = float(_colour(sheet, _end_part(gradient, kind)) @ _colour(sheet, place.rect)) > _OF_ONE_COLOUR
    return place if goes_on and alike else None


def _gap(gradient: FoundSwatch, place: FoundSwatch, kind: End) -> float:
    """How far `place` lies off that end of the gradient, in the gradient's breadths; infinite where it does not lie there."""
    (start, stop), (low, high) = _sides(gradient.rect, str(gradient.axis))
    (own_start, own_stop), (own_low, own_high) = _sides(place.rect, str(gradient.axis))
    breadth = high - low
    beside = (min(high, own_high) - max(low, own_low)) / max(breadth, own_high - own_low)
    gap = (start - own_stop if _before(gradient, kind) else own_start - stop) / breadth
    return gap if beside >= _BESIDE and gap > -_BESIDE else float("inf")


def _before(gradient: FoundSwatch, kind: End) -> bool:
    """Whether that end is the gradient's left or upper one: it pales toward its axis."""
    return str(gradient.axis).startswith("+") == (kind == "masstone")


def _sides(rect: Rect, axis: str) -> tuple[tuple[float, float], tuple[float, float]]:
    """From where to where it goes along the axis, and across it."""
    x, y = (rect.x, rect.right), (rect.y, rect.bottom)
    return (x, y) if axis.endswith("x") else (y, x)


def _end_part(gradient: FoundSwatch, kind: End) -> Rect:
    """The third of a gradient on that end."""
    rect = gradient.rect
    if str(gradient.axis).endswith("x"):
        return Rect(rect.x if _before(gradient, kind) else rect.x + 2 * rect.width / 3, rect.y, rect.width / 3, rect.height)
    return Rect(rect.x, rect.y if _before(gradient, kind) else rect.y + 2 * rect.height / 3, rect.width, rect.height / 3)


def _colour(sheet: SheetDepth, rect: Rect) -> Floats:
    """Mean density (3,) of a place, as a direction."""
    left, top, right, bottom = (round(side * sheet.pixels_per_mm) for side in (rect.x, rect.y, rect.right, rect.bottom))
    mean = sheet.density[top:bottom, left:right].reshape(-1, 3).mean(axis=0, dtype=float)
    return np.asarray(mean / max(float(np.linalg.norm(mean)), 1e-6))
