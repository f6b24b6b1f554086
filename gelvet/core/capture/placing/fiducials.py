"""Finding the tags: coarsely with a reduced image, then each edge to sub-pixel in linear light."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.placing.geometry import Geometry, Lens
from gelvet.core.card.dictionary import MODULES, april_36h11
from gelvet.core.card.layout import Layout, Tag
from gelvet.core.errors import NothingMeasurable

_DETECTION_SIDE_PX = 2600
_SAMPLES_ALONG = 40
MINIMUM_TAGS = 3
# How far to either side of a tag's edge its light is looked at: in modules, and closer, in pixels and in widths of the blur.
_WIDE_VIEW = 0.7
_NARROW_VIEW_PX, _NARROW_VIEW_BLURS, _NARROW_ROUNDS = 4.0, 5.0, 2
# A tag whose corners are this far from the common plane (in its own size) is folded over or belongs to another card.
_MISPLACED_SHARE = 0.06
# F of one parameter: a lens that is not there would pass once in some ten thousand pictures.
_LENS_SIGNIFICANCE = 18.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundTags:
    """Corners (4, 2) in image px by tag id, clockwise from the tag's top-left."""

    corners: dict[int, Floats]
    image_size: tuple[int, int]  # width, height
    blur_px: float | None = None


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
    """Square-rooted green for linear-looking scans would do as well: detection only needs contrast."""
    green = picture[..., 1]
    if green.dtype == np.uint8:
        return np.ascontiguousarray(green)
    import cv2

    return np.asarray(cv2.convertScaleAbs(green, alpha=1 / 257))


def _too_few(ours: int, all_tags: int, seen: int) -> NothingMeasurable:
    if ours == 0 and seen == 0:
        return NothingMeasurable("No tags were found in the image; show the whole card with all its corners, or choose another file.")
    if ours == 0:
        return NothingMeasurable("The tags in the image belong to another card; choose the layout that was printed on it.")
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
    """The placing with a radial lens term, where the corners ask for one: its share of the misfit is far beyond chance."""
    from scipy.optimize import least_squares

    centre = (image_size[0] / 2 - 0.5, image_size[1] / 2 - 0.5)
    radius = float(np.hypot(*image_size)) / 2
    # Columns of the matrix in units of about one pixel at the card's far corner, so that all nine weigh alike.
    unit = np.array([1, 1, flat.size_mm[0], 1, 1, flat.size_mm[1], 1 / radius, 1 / radius]) / flat.size_mm[0]

    def bent(parameters: Floats) -> Geometry:
        matrix = np.append(flat.matrix.ravel()[:8] + parameters[:8] * unit, 1.0).reshape(3, 3)
        return replace(flat, matrix=matrix, lens=Lens(float(parameters[8]) * 1e-3, centre, radius))

    def misses(parameters: Floats) -> Floats:
        return np.asarray((bent(parameters).to_pixels(source) - target).ravel())

    found = least_squares(misses, np.zeros(9), x_scale="jac", loss="soft_l1", f_scale=1.0, max_nfev=60)
    before, after = (float((r**2).sum()) for r in (misses(np.zeros(9)), misses(found.x)))
    spare = 2 * len(source) - 9
    return bent(found.x) if (before - after) * spare > _LENS_SIGNIFICANCE * after else flat


def refine_tags(linear_green: Floats, found: FoundTags, layout: Layout) -> FoundTags:
    """Corners as intersections of the four border edges, each located by the light it divides, and the blur.

    `linear_green` (h, w) float32 in linear light: on tone-curved values the edges would shift. First each tag by itself with a
    wide view, then once more with a narrow one, from where all tags together say that it is: the unevenness of paper under a
    low lamp shifts an edge by as much as the view is wide.
    """
    first = _refined(linear_green, found.corners, _WIDE_VIEW)
    corners = first.corners
    for _ in range(_NARROW_ROUNDS):
        whole = {tag: c for tag, c in corners.items() if tag not in first.rough}
        sure = whole if len(whole) > MINIMUM_TAGS else corners
        geometry, rejected = place_card(FoundTags(corners=sure, image_size=found.image_size), layout)
        module_px = geometry.pixels_per_mm * layout.tags[0].size_mm / MODULES
        view = max(_NARROW_VIEW_PX, _NARROW_VIEW_BLURS * (first.blur_px or 0.0)) / module_px
        if view >= _WIDE_VIEW:
            break
        expected = {t.id: geometry.to_pixels(tag_corners_mm(t)) for t in layout.tags if t.id in corners and t.id not in rejected}
        closer = _refined(linear_green, expected, view)
        corners = {**corners, **{tag: c for tag, c in closer.corners.items() if tag not in closer.rough}}
    return FoundTags(corners=corners, image_size=found.image_size, blur_px=first.blur_px)


@dataclass(frozen=True, slots=True)
class _Refined:
    corners: dict[int, Floats]
    rough: set[int]  # tags of which an edge is not seen; they stay where they were
    blur_px: float | None


def _refined(linear_green: Floats, corners: dict[int, Floats], view: float) -> _Refined:
    """Each tag's corners from a `view` of its edges, in modules to either side."""
    better: dict[int, Floats] = {}
    rough_ones: set[int] = set()
    distances: list[Floats] = []
    values: list[Floats] = []
    for tag_id, rough in corners.items():
        lines = []
        for side in range(4):
            line = _edge_line(linear_green, rough[side], rough[(side + 1) % 4], view)
            if line is None:
                break
            lines.append(line)
            d, v = _edge_samples(linear_green, rough[side], rough[(side + 1) % 4], line)
            distances.append(d)
            values.append(v)
        if len(lines) == 4:
            better[tag_id] = np.array([_intersection(lines[s - 1], lines[s]) for s in range(4)])
        else:
            better[tag_id] = rough
            rough_ones.add(tag_id)
    return _Refined(better, rough_ones, _edge_spread(np.concatenate(distances), np.concatenate(values)) if distances else None)


def _edge_frame(start: Floats, stop: Floats, view: float = _WIDE_VIEW) -> tuple[Floats, Floats, float, float]:
    """Unit direction, outward normal, length and half reach of the profiles (a `view` of so many modules)."""
    length = float(np.linalg.norm(stop - start))
    along = (stop - start) / length
    outward = np.array([along[1], -along[0]])
    return along, outward, length, view * length / MODULES


def _edge_line(plane: Floats, start: Floats, stop: Floats, view: float) -> tuple[Floats, Floats] | None:
    """(point, direction) of the border's outer edge; None where the picture does not show it."""
    import cv2

    along, outward, length, reach = _edge_frame(start, stop, view)
    places = np.linspace(0.12, 0.88, _SAMPLES_ALONG) * length
    steps = np.arange(-reach, reach + 1e-9, 0.25)
    grid = start + places[:, None, None] * along + steps[None, :, None] * outward
    if grid.min() < 1 or grid[..., 0].max() > plane.shape[1] - 2 or grid[..., 1].max() > plane.shape[0] - 2:
        return None
    origin = np.floor(grid.reshape(-1, 2).min(axis=0)).astype(int) - 1
    end = np.ceil(grid.reshape(-1, 2).max(axis=0)).astype(int) + 2
    part = np.ascontiguousarray(plane[origin[1] : end[1], origin[0] : end[0]])
    local = (grid - origin).astype(np.float32)
    profiles = cv2.remap(part, local[..., 0], local[..., 1], cv2.INTER_LINEAR)
    ends = max(2, len(steps) // 5)
    # The light may change along the edge: each profile is judged by the light of its own place.
    black, white = (_straightened(places, part.mean(axis=1))[:, None] for part in (profiles[:, :ends], profiles[:, -ends:]))
    if np.min(white - black) < 0.02 or np.any(white < 1.3 * black):
        return None
    share = (profiles - black) / (white - black)
    # Light integrated across the edge: exact for any symmetric blur, and calm under noise.
    offsets = steps[-1] + 0.125 - share.sum(axis=1) * 0.25
    slope, shift = _robust_line(places, offsets)
    point = start + shift * outward
    direction = along + slope * outward
    return point, direction / np.linalg.norm(direction)


def _robust_line(x: Floats, y: Floats) -> tuple[float, float]:
    """Slope and intercept with outliers (dust, fibres) left out."""
    keep = np.ones(len(x), dtype=bool)
    slope, shift = 0.0, float(np.median(y))
    for _ in range(3):
        slope, shift = np.polyfit(x[keep], y[keep], 1)
        residual = y - slope * x - shift
        limit = 3 * 1.4826 * float(np.median(np.abs(residual[keep]))) + 0.01
        keep = np.abs(residual) <= limit
    return float(slope), float(shift)


def _straightened(places: Floats, light: Floats) -> Floats:
    slope, shift = _robust_line(places, light)
    return slope * places + shift


def _edge_samples(plane: Floats, start: Floats, stop: Floats, line: tuple[Floats, Floats]) -> tuple[Floats, Floats]:
    """Signed distance (px, + outward) and normalised light of the pixels themselves beside an edge."""
    _, _, length, reach = _edge_frame(start, stop)
    point, direction = line
    outward = np.array([direction[1], -direction[0]])
    ends = point + np.array([[0.15], [0.85]]) * length * direction
    low = np.floor(ends.min(axis=0) - reach).astype(int)
    high = np.ceil(ends.max(axis=0) + reach).astype(int) + 1
    low, high = np.maximum(low, 0), np.minimum(high, [plane.shape[1], plane.shape[0]])
    y, x = np.mgrid[low[1] : high[1], low[0] : high[0]]
    offset = np.stack([x, y], axis=-1) - point
    across, lengthwise = offset @ outward, offset @ direction
    inside = (np.abs(across) < reach) & (lengthwise > 0.15 * length) & (lengthwise < 0.85 * length)
    values = plane[low[1] : high[1], low[0] : high[0]][inside]
    distance = across[inside]
    outer, inner = distance > 0.7 * reach, distance < -0.7 * reach
    if outer.sum() < 8 or inner.sum() < 8:
        return np.empty(0), np.empty(0)
    black, white = float(np.median(values[inner])), float(np.median(values[outer]))
    return distance, (values - black) / max(white - black, 1e-6)


def _edge_spread(distance_px: Floats, share: Floats) -> float | None:
    """Standard deviation (px) of the blur whose integral the edges show; None where there is too little."""
    from scipy.special import erf

    if len(distance_px) < 200:
        return None
    widths = np.geomspace(0.28, 12, 90)
    bins = np.round(distance_px * 8).astype(int)
    bins -= bins.min()
    count = np.bincount(bins)
    used = count > 0
    d = (np.bincount(bins, distance_px)[used]) / count[used]
    v = (np.bincount(bins, share)[used]) / count[used]
    models = 0.5 * (1 + erf(d[None] / (np.sqrt(2) * widths[:, None])))
    cost = ((models - v) ** 2 * count[used]).sum(axis=1)
    best = int(np.argmin(cost))
    if 0 < best < len(widths) - 1:
        log_widths, c = np.log(widths[best - 1 : best + 2]), cost[best - 1 : best + 2]
        bend = c[0] - 2 * c[1] + c[2]
        shift = 0.5 * (c[0] - c[2]) / bend if bend > 0 else 0.0
        return float(np.exp(log_widths[1] + shift * (log_widths[2] - log_widths[1])))
    return float(widths[best])


def _intersection(first: tuple[Floats, Floats], second: tuple[Floats, Floats]) -> Floats:
    (p, u), (q, v) = first, second
    t = np.linalg.solve(np.column_stack([u, -v]), q - p)[0]
    return np.asarray(p + t * u)
