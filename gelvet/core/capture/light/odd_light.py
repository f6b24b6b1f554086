"""Light on the bare card that no lamp's smooth fall-off explains: glare, shadows, and a veil of mirrored light over a part of it."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.calibrated_capture import Calibration
from gelvet.core.capture.device import linear_part
from gelvet.core.capture.light.flat_field import CELL_MM, FlatField, PaperCells
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.dictionary import MODULES
from gelvet.core.card.layout import Layout, Rect, Tag

# A square of bare paper is odd where its light departs so far from the smooth surface through all of them (natural logarithm).
_BRIGHTER, _DARKER = 0.03, 0.06
# On a card that curls, slopes toward the light are as much brighter as the others are darker, and the light's surface follows them:
# odd is what stands out so many times as far as the usual one of the other sort, of those that are not something else altogether, or
# what the light's surface did not follow.
_STANDS_OUT, _USUAL_PERCENT, _SOMETHING_ELSE, _FOLLOWED = 2.0, 95, 0.12, 0.015
# A shadow takes light of all colours alike; what takes one much more than another is paint beside its zone.
_NEUTRAL = 0.4
# Touching squares that make a patch of glare; so few dark ones are a splash or a pencilled word, not a shadow.
_GLARE_CELLS, _SHADOW_CELLS = 3, 12
_PIXELS_PER_MM = 8.0


@dataclass(frozen=True, slots=True)
class OddPaper:
    """Squares of bare paper brighter and darker than the light explains, and their shares of all."""

    brighter: tuple[Rect, ...] = ()
    darker: tuple[Rect, ...] = ()
    brighter_share: float = 0.0
    darker_share: float = 0.0


@dataclass(frozen=True, slots=True)
class Veil:
    """How much more light, in units of the paper's, the palest tag's black sends back than the deepest one's; and that tag."""

    light: float
    tag: Tag | None = None


def odd_paper(cells: PaperCells, light: Floats, field: FlatField) -> OddPaper:
    """Squares `cells` whose median `light` (n, 3) stands in patches off the surface `field` through them."""
    if field.paper is None:
        return OddPaper()
    off = np.log(np.maximum(light, 1e-4) / field.paper_at(cells))
    least, most = off.min(axis=1), off.max(axis=1)
    left = off.mean(axis=1)
    followed = np.ones(len(left), dtype=bool) if field.local is None else np.abs(left - field.local.at(*cells.centres_mm.T)) < _FOLLOWED
    brighter, darker = (np.where(followed, _STANDS_OUT * _usual(other), 0.0) for other in (-most, least))
    bright = _in_patches(cells, least > np.maximum(_BRIGHTER, brighter), _GLARE_CELLS)
    even = np.ptp(off, axis=1) < _NEUTRAL * np.abs(left)
    dark = _in_patches(cells, (most < -np.maximum(_DARKER, darker)) & even, _SHADOW_CELLS)
    return OddPaper(_rects(cells, bright), _rects(cells, dark), float(bright.mean()), float(dark.mean()))


def _usual(off: Floats) -> float:
    """How far off (n,) the paper commonly is to one side."""
    return float(np.percentile(off[off < _SOMETHING_ELSE], _USUAL_PERCENT)) if np.any(off < _SOMETHING_ELSE) else 0.0


def _in_patches(cells: PaperCells, odd: Mask, at_least: int) -> Mask:
    """Those of `odd` (n,) that touch enough others."""
    from scipy.ndimage import label

    places = np.round(cells.corners_mm / CELL_MM).astype(int)
    grid = np.zeros(places.max(axis=0) + 1, dtype=bool)
    grid[tuple(places[odd].T)] = True
    patches, _ = label(grid, np.ones((3, 3)))
    of_cell = patches[tuple(places.T)]
    return np.asarray(odd & (np.bincount(of_cell[odd], minlength=patches.max() + 1)[of_cell] >= at_least))


def _rects(cells: PaperCells, chosen: Mask) -> tuple[Rect, ...]:
    """The chosen squares, neighbours in a row as one, and rows of one width below each other too."""
    rows: list[Rect] = []
    for x, y in sorted(map(tuple, cells.corners_mm[chosen].tolist()), key=lambda corner: (corner[1], corner[0])):
        if rows and rows[-1].y == y and abs(rows[-1].right - x) < 0.1:
            rows[-1] = Rect(rows[-1].x, y, rows[-1].width + CELL_MM, CELL_MM)
        else:
            rows.append(Rect(x, y, CELL_MM, CELL_MM))
    blocks: list[Rect] = []
    for row in sorted(rows, key=lambda r: (r.x, r.width, r.y)):
        above = blocks[-1] if blocks else None
        if above is not None and (above.x, above.width) == (row.x, row.width) and abs(above.bottom - row.y) < 0.1:
            blocks[-1] = Rect(above.x, above.y, above.width, above.height + CELL_MM)
        else:
            blocks.append(row)
    return tuple(blocks)


def veil_over(picture: Picture, layout: Layout, calibration: Calibration, seen: set[int]) -> Veil:
    """Mirrored light over a part of the card, told by the black of the tags `seen`: one ink, so that each sends back the same share of
    the light that the paper around it does."""
    blacks = [(tag, _black(picture, tag, calibration)) for tag in layout.tags if tag.id in seen]
    told = [(tag, black) for tag, black in blacks if black is not None]
    if len(told) < 2:
        return Veil(0.0)
    values = np.array([black for _, black in told])
    return Veil(float(values.max() - values.min()), told[int(values.argmax())][0])


def _black(picture: Picture, tag: Tag, calibration: Calibration) -> float | None:
    """Light of the tag's border against that of the paper around it; None where either is clipped or not in the picture."""
    module = tag.size_mm / MODULES
    rect = tag.rect.inset(-0.8 * module)
    scale = min(calibration.geometry.pixels_per_mm, _PIXELS_PER_MM)
    linear, good = linear_part(picture, calibration.geometry, rect, scale, calibration.lookup)
    height, width = good.shape
    y = np.minimum(np.arange(height) + 0.5, height - np.arange(height) - 0.5) / height * rect.height / module
    x = np.minimum(np.arange(width) + 0.5, width - np.arange(width) - 0.5) / width * rect.width / module
    depth = np.minimum(y[:, None], x[None, :])  # modules from the outer rim of the paper around
    border, paper = good & (depth > 1.1) & (depth < 1.5), good & (depth < 0.45)
    if border.sum() < 20 or paper.sum() < 20:
        return None
    light = linear.mean(axis=-1)
    return float(np.median(light[border]) / np.median(light[paper]))
