"""Where on the card a picture is clipped, patch or not: at its brightest, or in one channel at black."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.device import SATURATED
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Rect

CHANNELS = ("red", "green", "blue")
_POINTS_MM, _CELL_MM = 1.0, 10.0
_MOSTLY, _MUCH = 0.5, 0.2
_AROUND_MM = ((-0.25, -0.25), (0.25, -0.25), (-0.25, 0.25), (0.25, 0.25))
# A channel is cut off where this share of the places around a point is stored as nothing, while another has so much of the largest
# value: noise leaves less of it in what is merely dark. Places on the card are told where such points make up a twentieth of a square.
_CUT_SHARE, _VIVID, _SOMEWHERE = 0.5, 0.1, 0.05


@dataclass(frozen=True, slots=True)
class ClippedLight:
    """`share` of the card's visible part that is clipped at its brightest, 0 to 1, and the squares of a centimetre that mostly are;
    `cut_share` of it where some channel is cut off at black under another that is not dark, those squares, and the channels' names."""

    share: float
    where: tuple[Rect, ...]
    cut_share: float = 0.0
    cut_where: tuple[Rect, ...] = ()
    cut_channels: tuple[str, ...] = ()


NOTHING_CLIPPED = ClippedLight(0.0, ())


def clipped_light(picture: Picture, geometry: Geometry, size_mm: tuple[float, float]) -> ClippedLight:
    """At points a millimetre apart; what is too small to hold four places around a point is a glint, and may clip."""
    width, height = size_mm
    points = _points(Rect(0, 0, width, height))
    shown, codes = _codes_around(picture, geometry, points)
    if not shown.any():
        return NOTHING_CLIPPED
    clipped = (codes.max(axis=2) >= SATURATED * picture.full_scale).all(axis=1)
    cut = _cut(codes, picture.full_scale)
    cells, of = np.unique(points[shown] // _CELL_MM, axis=0, return_inverse=True)

    def squares(points: Mask, share: float) -> tuple[Rect, ...]:
        chosen = np.bincount(of.ravel(), points) > share * np.bincount(of.ravel())
        return tuple(
            Rect(float(i), float(j), min(_CELL_MM, width - float(i)), min(_CELL_MM, height - float(j))) for i, j in cells[chosen] * _CELL_MM
        )

    some = np.asarray(cut.any(axis=1))
    return ClippedLight(
        share=float(clipped.mean()),
        where=squares(np.asarray(clipped), _MOSTLY),
        cut_share=float(some.mean()),
        cut_where=squares(some, _SOMEWHERE),
        cut_channels=_names(cut),
    )


def cut_channels(picture: Picture, geometry: Geometry, rect: Rect) -> tuple[str, ...]:
    """Names of the channels that are cut off at black over much of `rect`: its colour is more vivid than the picture can hold."""
    cut = _cut_in(picture, geometry, rect)
    return _names(cut) if len(cut) and cut.any(axis=1).mean() > _MUCH else ()


def cut_share(picture: Picture, geometry: Geometry, rect: Rect) -> float:
    """How much of `rect`, 0 to 1, is more vivid than the picture can hold."""
    cut = _cut_in(picture, geometry, rect)
    return float(cut.any(axis=1).mean()) if len(cut) else 0.0


def _cut_in(picture: Picture, geometry: Geometry, rect: Rect) -> Mask:
    _, codes = _codes_around(picture, geometry, _points(rect))
    return _cut(codes, picture.full_scale)


def _points(rect: Rect) -> Floats:
    x, y = np.meshgrid(
        np.arange(rect.x + _POINTS_MM / 2, rect.right, _POINTS_MM), np.arange(rect.y + _POINTS_MM / 2, rect.bottom, _POINTS_MM)
    )
    return np.column_stack([x.ravel(), y.ravel()])


def _codes_around(picture: Picture, geometry: Geometry, points: Floats) -> tuple[Mask, Floats]:
    """Which of `points` (n, 2) are in the picture, and stored values (m, 4, 3) at four places around each of those."""
    height, width = picture.pixels.shape[:2]
    around = [np.round(geometry.to_pixels(points + np.array(off))).astype(int) for off in _AROUND_MM]
    shown = np.all([(p >= 0) & (p < [width, height]) for p in around], axis=(0, 2))
    return shown, np.stack([picture.pixels[p[shown, 1], p[shown, 0]] for p in around], axis=1)


def _cut(codes: Floats, full_scale: float) -> Mask:
    """Which channels (n, 3) of stored values (n, 4, 3) are cut off."""
    bright = codes.max(axis=2).mean(axis=1) > _VIVID * full_scale
    return np.asarray(((codes == 0).mean(axis=1) >= _CUT_SHARE) & bright[:, None])


def _names(cut: Mask) -> tuple[str, ...]:
    """Of the channels that are `cut` (n, 3) in as many places as a quarter of those of the commonest one."""
    often = cut.sum(axis=0)
    return tuple(name for name, count in zip(CHANNELS, often, strict=True) if count > 0 and count >= often.max() / 4)
