"""Finding the tags in a picture, sorting them to cards, and placing a card by its own."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.placing.geometry import Geometry, Lens, displacement
from gelvet.core.card.dictionary import april_36h11
from gelvet.core.card.layout import Layout, Tag
from gelvet.core.errors import NothingMeasurable

_DETECTION_SIDE_PX = 2600
MINIMUM_TAGS = 3
# A tag whose corners are this far from the common plane (in its own size) is folded over or belongs to another card.
_MISPLACED_SHARE = 0.06
# What a lens's first term leaves, RMS in px, so that its other terms are looked for: less is well enough, more is no lens's.
_LENS_LEAVES_PX = 0.12, 4.0
# F times the number of terms that came in, by the number of all: a lens that is not there would pass once in some ten thousand pictures.
_LENS_SIGNIFICANCE = {9: 18.0, 12: 25.0}
# A parameter's step for differences, in the fit's own units of about a pixel.
_LENS_STEP = 1e-5
# A picture whose brightest hundredth, seen at every so many-th pixel, is stored below this share of the largest value is dark.
_SPARSE, _DARK = 16, 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundTags:
    """Corners (4, 2) in image px by tag id, clockwise from the tag's top-left."""

    corners: dict[int, Floats]
    image_size: tuple[int, int]  # width, height
    blur_px: float | None = None

    def without(self, ids: Sequence[int]) -> "FoundTags":
        """The others."""
        return replace(self, corners={tag: corners for tag, corners in self.corners.items() if tag not in ids})


@dataclass(frozen=True, slots=True)
class SeenTag:
    """A tag as the image shows it: its id and corners (4, 2) px, clockwise from the tag's own top-left."""

    id: int
    corners: Floats


def see_tags(picture: Image) -> list[SeenTag]:
    """All tags in the picture (h, w, 3), of whatever card: looked for at two scales, since the grain of paper under a low
    lamp hides them at the finer one."""
    import cv2

    grey = _grey_8bit(picture)
    # Whole factors only: the pixel centres of the reduced image are then known exactly.
    first = max(1, int(np.ceil(max(grey.shape) / _DETECTION_SIDE_PX)))
    found: list[SeenTag] = []
    for factor in (first, 2 * first):
        height, width = grey.shape[0] // factor * factor, grey.shape[1] // factor * factor
        small = cv2.resize(grey[:height, :width], (width // factor, height // factor), interpolation=cv2.INTER_AREA)
        found += [tag for tag in _detect(np.asarray(small), factor) if not any(_same_tag(tag, other) for other in found)]
    return found


def _detect(grey: Image, factor: int) -> list[SeenTag]:
    """Tags in an image that was reduced by `factor`, in pixels of the whole one."""
    import cv2

    parameters = cv2.aruco.DetectorParameters()
    parameters.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    corners, ids, _ = cv2.aruco.ArucoDetector(april_36h11(), parameters).detectMarkers(grey)
    return [
        SeenTag(tag_id, (np.asarray(points, dtype=float).reshape(4, 2) + 0.5) * factor - 0.5)
        for points, tag_id in zip(corners, [] if ids is None else [int(i) for i in ids.ravel()], strict=True)
    ]


def _same_tag(one: SeenTag, other: SeenTag) -> bool:
    apart = float(np.linalg.norm(one.corners.mean(axis=0) - other.corners.mean(axis=0)))
    return one.id == other.id and apart < 0.5 * _side(one)


def detect_tags(picture: Image, layout: Layout) -> FoundTags:
    """The tags of the one card in the picture (h, w, 3); raises NothingMeasurable where it cannot be placed."""
    cards = cards_in(see_tags(picture), layout, (picture.shape[1], picture.shape[0]))
    if len(cards) > 1:
        raise NothingMeasurable("The image shows more than one card; measure it as a scan of several cards.")
    return cards[0]


def cards_in(seen: Sequence[SeenTag], layout: Layout, image_size: tuple[int, int]) -> list[FoundTags]:
    """The cards of this layout in an image of (width, height), in reading order; raises NothingMeasurable for none.

    Each tag alone says roughly where the card's centre must be: tags that agree belong to one card.
    """
    known = {t.id: t for t in layout.tags}
    ours = [tag for tag in seen if tag.id in known]
    groups: list[list[SeenTag]] = []
    centres: list[Floats] = []
    for tag in sorted(ours, key=lambda t: -_side(t)):
        centre, reach = _card_centre(tag, known[tag.id], layout)
        near = [i for i, c in enumerate(centres) if np.linalg.norm(c - centre) < reach and tag.id not in {t.id for t in groups[i]}]
        if near:
            groups[near[0]].append(tag)
        else:
            groups.append([tag])
            centres.append(centre)
    whole = [g for g in groups if len(g) >= MINIMUM_TAGS]
    if not whole:
        raise _too_few(len(ours), len(layout.tags), len(seen))
    order = sorted(whole, key=lambda g: tuple(np.round(_middle(g)[::-1] / (0.5 * _span(g)))))
    return [FoundTags(corners={t.id: t.corners for t in group}, image_size=image_size) for group in order]


def _side(tag: SeenTag) -> float:
    return float(np.linalg.norm(tag.corners[1] - tag.corners[0]))


def _middle(group: list[SeenTag]) -> Floats:
    return np.asarray(np.mean([t.corners.mean(axis=0) for t in group], axis=0))


def _span(group: list[SeenTag]) -> float:
    return float(np.ptp(np.concatenate([t.corners for t in group]), axis=0).max())


def _card_centre(seen: SeenTag, tag: Tag, layout: Layout) -> tuple[Floats, float]:
    """Where one tag puts the card's centre, px, and how far off that may be: a third of the card's shorter side."""
    across = (seen.corners[1] - seen.corners[0] + seen.corners[2] - seen.corners[3]) / (2 * tag.size_mm)
    down = (seen.corners[3] - seen.corners[0] + seen.corners[2] - seen.corners[1]) / (2 * tag.size_mm)
    offset = np.array(layout.size_mm) / 2 - np.array(tag.centre_mm)
    scale = float(np.sqrt(abs(np.linalg.det(np.column_stack([across, down])))))
    return seen.corners.mean(axis=0) + offset[0] * across + offset[1] * down, scale * min(layout.size_mm) / 3


def _grey_8bit(picture: Image) -> Image:
    """Green in 8 bits, as stored: detection only needs contrast. A dark picture, as camera raw or an exposure far too short gives, is
    brought up to where there is some."""
    import cv2

    green = picture[..., 1]
    top = np.iinfo(green.dtype).max
    bright = max(float(np.percentile(green[::_SPARSE, ::_SPARSE], 99)), 1.0) / top
    gain = 0.9 / bright if bright < _DARK else 1.0
    if green.dtype == np.uint8 and gain == 1.0:
        return np.ascontiguousarray(green)
    return np.asarray(cv2.convertScaleAbs(green, alpha=gain * 255 / top))


def _too_few(ours: int, all_tags: int, seen: int) -> NothingMeasurable:
    if ours == 0 and seen == 0:
        return NothingMeasurable("No tags were found in the image; show the whole card with all its corners, or choose another file.")
    if ours == 0:
        return NothingMeasurable("The tags in the image belong to another card; choose the layout that was printed on it.")
    if ours >= MINIMUM_TAGS:
        return NothingMeasurable("The tags do not lie on the card as its layout says; check the tags' center_mm and size_mm.")
    return NothingMeasurable(
        f"Only {ours} of {all_tags} tags were found, too few to place the card; uncover the others and capture it again."
    )


def tag_corners_mm(tag: Tag) -> Floats:
    """(4, 2) card mm, clockwise from top-left."""
    rect = tag.rect
    return np.array([[rect.x, rect.y], [rect.right, rect.y], [rect.right, rect.bottom], [rect.x, rect.bottom]])


def place_card(found: FoundTags, layout: Layout) -> tuple[Geometry, tuple[int, ...]]:
    """Geometry from all agreeing tags, and the ids of tags that disagree; raises NothingMeasurable for another card."""
    tags = [t for t in layout.tags if t.id in found.corners]
    rejected: list[int] = []
    while True:
        geometry, errors = _fit(tags, found, layout)
        size_px = geometry.pixels_per_mm * float(np.mean([t.size_mm for t in tags]))
        worst = int(np.argmax(errors))
        if errors[worst] <= _MISPLACED_SHARE * size_px:
            return geometry, tuple(rejected)
        if len(tags) <= 4:
            raise NothingMeasurable(
                "The tags do not stand where this layout has them; the image shows another card, or the card is folded."
            )
        rejected.append(tags.pop(worst).id)


def _fit(tags: list[Tag], found: FoundTags, layout: Layout) -> tuple[Geometry, Floats]:
    import cv2

    source = np.concatenate([tag_corners_mm(t) for t in tags])
    target = np.concatenate([found.corners[t.id] for t in tags])
    found_matrix, _ = cv2.findHomography(source, target, 0)
    matrix = np.asarray(found_matrix, dtype=float)
    if matrix.shape != (3, 3) or not np.isfinite(matrix).all() or abs(np.linalg.det(matrix[:2, :2])) < 1e-6:
        raise NothingMeasurable("The tags do not span the card; show the whole card and capture it again.")
    flat = Geometry(matrix=matrix / matrix[2, 2], size_mm=layout.size_mm, reprojection_px=0.0)
    geometry = _better_with_lens(flat, source, target, found.image_size)
    misses = np.linalg.norm(geometry.to_pixels(source) - target, axis=1)
    return replace(geometry, reprojection_px=float(np.sqrt(np.mean(misses**2)))), misses.reshape(-1, 4).max(axis=1)


def _better_with_lens(flat: Geometry, source: Floats, target: Floats, image_size: tuple[int, int]) -> Geometry:
    """The placing with a radial lens term, where the corners ask for one, and with all terms of a lens, where they still ask: the share
    of the misfit that goes is far beyond chance."""
    from scipy.optimize import least_squares

    centre = (image_size[0] / 2 - 0.5, image_size[1] / 2 - 0.5)
    radius = float(np.hypot(*image_size)) / 2
    # Columns of the matrix in units of about one pixel at the card's far corner, so that all weigh alike.
    unit = np.array([1, 1, flat.size_mm[0], 1, 1, flat.size_mm[1], 1 / radius, 1 / radius]) / flat.size_mm[0]
    homogeneous = np.column_stack([source, np.ones(len(source))])

    def parts(parameters: Floats) -> tuple[Floats, Floats]:
        """Matrix (..., 3, 3) and lens terms (..., 4) of parameters (..., 9 or 12)."""
        matrix = np.ones((*parameters.shape[:-1], 9))
        matrix[..., :8] = flat.matrix.ravel()[:8] + parameters[..., :8] * unit
        terms = np.zeros((*parameters.shape[:-1], 4))
        terms[..., : parameters.shape[-1] - 8] = 1e-3 * parameters[..., 8:]
        return matrix.reshape(*parameters.shape[:-1], 3, 3), terms

    def misses(parameters: Floats) -> Floats:
        matrix, terms = parts(parameters)
        seen = homogeneous @ np.swapaxes(matrix, -1, -2)
        ideal = seen[..., :2] / seen[..., 2:]
        return np.asarray((ideal + displacement(ideal - np.array(centre), radius, terms) - target).reshape(*parameters.shape[:-1], -1))

    def slopes(parameters: Floats) -> Floats:
        """All parameters' differences in one go: one by one they would take five times as long."""
        moved = parameters + _LENS_STEP * np.eye(len(parameters))
        return np.asarray((misses(moved) - misses(parameters)).T / _LENS_STEP)

    def bent(parameters: Floats) -> Geometry:
        matrix, terms = parts(parameters)
        bend, fourth, x, y = (float(t) for t in terms)
        return replace(flat, matrix=matrix, lens=Lens(bend, centre, radius, fourth, (x, y)))

    best, before = flat, float((misses(np.zeros(9)) ** 2).sum())
    start = np.zeros(9)
    for count in (9, 12):
        spare = 2 * len(source) - count
        left_px = np.sqrt(before / len(source))
        if spare < count or (count == 12 and not _LENS_LEAVES_PX[0] < left_px < _LENS_LEAVES_PX[1]):
            break
        found = least_squares(misses, np.pad(start, (0, count - 9)), slopes, x_scale="jac", loss="soft_l1", f_scale=1.0, max_nfev=60)
        after = float((misses(found.x) ** 2).sum())
        if (before - after) * spare > _LENS_SIGNIFICANCE[count] * after:
            best, before, start = bent(found.x), after, found.x
    return best
