"""Colour fringes: red and blue do not lie exactly on green, by the lens or by a sensor that reads its rows in turn.

A third of a pixel is enough to make every grain of one pigment look like two.
"""

from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.placing.fiducials import MINIMUM_TAGS, FoundTags, tag_corners_mm
from gelvet.core.capture.placing.geometry import Fringes, Geometry
from gelvet.core.capture.placing.tag_edges import narrow_view, refined_corners
from gelvet.core.card.layout import Layout
from gelvet.core.robust import SPREAD_OF_MEDIAN

_ROUNDS = 3
_FAR_OFF, _FAR_OFF_PX = 3.0, 0.02
# Less than this at any corner of the card is left alone: it adds nothing to a grain's colour that could be measured.
_WORTH_PX = 0.04
_TIMES_ITS_DOUBT = 4.0


def with_fringes(geometry: Geometry, pixels: Image, lookup: Floats, found: FoundTags, layout: Layout) -> Geometry:
    """`geometry`, placed by green, with what moves red and blue, where the tags show it clearly.

    `pixels` (h, w, 3) as stored, `lookup` (levels, 3) makes them linear: on stored values the edges would shift. Each channel's
    displacement is affine in the picture: a lens's other magnification for another colour, a row read a little later.
    """
    moved = [_displacements(geometry, pixels, lookup, found, tag_corners_mm(tag)) for tag in layout.tags if tag.id in found.corners]
    seen = [m for m in moved if m is not None]
    if len(seen) <= MINIMUM_TAGS:
        return geometry
    width, height = layout.size_mm
    ends = geometry.to_pixels(np.array([[0, 0], [width, 0], [width, height], [0, height]]))
    places = np.concatenate([m[0] for m in seen])
    red, blue = (_affine(places, np.concatenate([m[1][i] for m in seen]), ends) for i in (0, 1))
    still = np.eye(3)
    if red is None and blue is None:
        return geometry
    return replace(geometry, fringes=Fringes(still if red is None else red, still if blue is None else blue))


def _displacements(
    geometry: Geometry, pixels: Image, lookup: Floats, found: FoundTags, corners_mm: Floats
) -> tuple[Floats, tuple[Floats, Floats]] | None:
    """A tag's corners (4, 2) px in green, and how far off they are (4, 2) in red and in blue; None where one is not seen."""
    import cv2

    rough = geometry.to_pixels(corners_mm)
    view, reach = narrow_view(geometry, corners_mm, found.blur_px)
    low = np.maximum(np.floor(rough.min(axis=0) - reach).astype(int), 0)
    high = np.minimum(np.ceil(rough.max(axis=0) + reach).astype(int) + 1, [pixels.shape[1], pixels.shape[0]])
    if np.any(high - low < 4):
        return None
    part = pixels[low[1] : high[1], low[0] : high[0]]
    planes = [cv2.LUT(np.ascontiguousarray(part[..., c]), np.ascontiguousarray(lookup[:, c])) for c in range(3)]
    seen = [refined_corners(np.asarray(plane), {0: rough - low}, view) for plane in planes]
    if not all(seen):
        return None
    red, green, blue = (corners[0] for corners in seen)
    return green + low, (red - green, blue - green)


def _affine(places: Floats, moved: Floats, ends: Floats) -> Floats | None:
    """Matrix (3, 3) that moves `places` (n, 2) by `moved` (n, 2), stray ones left out; None where it would move the card's
    corners `ends` (4, 2) by next to nothing, or by no more than its own doubt."""
    middle, span = places.mean(axis=0), float(np.ptp(places, axis=0).max())
    terms = np.column_stack([(places - middle) / span, np.ones(len(places))])
    keep = np.ones(len(places), dtype=bool)
    for _ in range(_ROUNDS):
        found = np.linalg.lstsq(terms[keep], moved[keep], rcond=None)[0]
        misses = np.linalg.norm(moved - terms @ found, axis=1)
        keep = misses <= _FAR_OFF * SPREAD_OF_MEDIAN * float(np.median(misses)) + _FAR_OFF_PX
    left = moved[keep] - terms[keep] @ found
    spread = np.linalg.inv(terms[keep].T @ terms[keep]) * float((left**2).sum()) / (2 * max(len(left) - 3, 1))
    at_ends = np.column_stack([(ends - middle) / span, np.ones(len(ends))])
    size = np.linalg.norm(at_ends @ found, axis=1)
    doubt = np.sqrt(2 * np.einsum("ij,jk,ik->i", at_ends, spread, at_ends))
    if size.max() < _WORTH_PX or np.all(size < _TIMES_ITS_DOUBT * doubt):
        return None
    matrix = np.eye(3)
    matrix[:2, :2] += found[:2].T / span
    matrix[:2, 2] = found[2] - found[:2].T @ middle / span
    return matrix
