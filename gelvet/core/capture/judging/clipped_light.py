"""Where on the card a picture is clipped at its brightest, patch or not: the next shot, or the next card, clips where it counts."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.capture.device import SATURATED
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Rect

_POINTS_MM, _CELL_MM = 1.0, 10.0
_MOSTLY = 0.5
_AROUND_MM = ((-0.25, -0.25), (0.25, -0.25), (-0.25, 0.25), (0.25, 0.25))


@dataclass(frozen=True, slots=True)
class ClippedLight:
    """`share` of the card's visible part, 0 to 1, and the squares of a centimetre that are mostly clipped."""

    share: float
    where: tuple[Rect, ...]


NOTHING_CLIPPED = ClippedLight(0.0, ())


def clipped_light(picture: Picture, geometry: Geometry, size_mm: tuple[float, float]) -> ClippedLight:
    """At points a millimetre apart; what is too small to hold four places around a point is a glint, and may clip."""
    width, height = size_mm
    x, y = np.meshgrid(np.arange(_POINTS_MM / 2, width, _POINTS_MM), np.arange(_POINTS_MM / 2, height, _POINTS_MM))
    points = np.column_stack([x.ravel(), y.ravel()])
    around = [np.round(geometry.to_pixels(points + np.array(off))).astype(int) for off in _AROUND_MM]
    shown = np.all([(p >= 0) & (p < [picture.pixels.shape[1], picture.pixels.shape[0]]) for p in around], axis=(0, 2))
    if not shown.any():
        return NOTHING_CLIPPED
    limit = SATURATED * picture.full_scale
    clipped = np.all([picture.pixels[p[shown, 1], p[shown, 0]].max(axis=1) >= limit for p in around], axis=0)
    cells, of = np.unique(points[shown] // _CELL_MM, axis=0, return_inverse=True)
    mostly = np.bincount(of.ravel(), clipped) > _MOSTLY * np.bincount(of.ravel())
    where = tuple(
        Rect(float(i), float(j), min(_CELL_MM, width - float(i)), min(_CELL_MM, height - float(j))) for i, j in cells[mostly] * _CELL_MM
    )
    return ClippedLight(float(clipped.mean()), where)
