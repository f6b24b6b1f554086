"""The tags' corners to a fraction of a pixel: each edge by the light that it divides, and the blur that the edges show."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask
from gelvet.core.capture.placing.fiducials import MINIMUM_TAGS, FoundTags, place_card, tag_corners_mm
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.card.dictionary import MODULES
from gelvet.core.card.layout import Layout
from gelvet.core.robust import SPREAD_OF_MEDIAN

Line = tuple[Floats, Floats]  # a point and a direction, px
_SAMPLES_ALONG, _SAMPLE_PX = 40, 0.25
_LINE_ROUNDS = 3
# Ink and paper must differ by so much light, and so many times, for an edge to be seen.
_LEAST_CONTRAST, _LEAST_RATIO = 0.02, 1.3
_ENOUGH_SAMPLES = 200
# How far to either side of a tag's edge its light is looked at: in modules, and closer, in pixels and in widths of the blur.
_WIDE_VIEW = 0.7
_NARROW_VIEW_PX, _NARROW_VIEW_BLURS, _NARROW_ROUNDS = 4.0, 5.0, 2


def refine_tags(linear_green: Floats, found: FoundTags, layout: Layout) -> FoundTags:
    """Corners as intersections of the four border edges, each located by the light it divides, and the blur.

    `linear_green` (h, w) float32 in linear light: on tone-curved values the edges would shift. First each tag by itself with a
    wide view, then once more with a narrow one, from where all tags together say that it is: the unevenness of paper under a
    low lamp shifts an edge by as much as the view is wide.
    """
    edges = _edges(linear_green, found.corners, _WIDE_VIEW)
    corners = {tag: _corners(edges[tag]) if tag in edges else rough for tag, rough in found.corners.items()}
    blur_px = _blur(linear_green, [(found.corners[tag], lines) for tag, lines in edges.items()])
    for _ in range(_NARROW_ROUNDS):
        sure = {tag: corners[tag] for tag in edges} if len(edges) > MINIMUM_TAGS else corners
        geometry, rejected = place_card(FoundTags(corners=sure, image_size=found.image_size), layout)
        view, _ = narrow_view(geometry, tag_corners_mm(layout.tags[0]), blur_px)
        if view >= _WIDE_VIEW:
            break
        placed = (t for t in layout.tags if t.id in corners and t.id not in rejected)
        corners |= refined_corners(linear_green, {t.id: geometry.to_pixels(tag_corners_mm(t)) for t in placed}, view)
    return FoundTags(corners=corners, image_size=found.image_size, blur_px=blur_px)


def narrow_view(geometry: Geometry, corners_mm: Floats, blur_px: float | None) -> tuple[float, float]:
    """How far to look to either side of a tag's edges once they are known well: in modules, at most the wide view, and in px
    with room to spare."""
    module_px = geometry.pixels_per_mm * float(np.ptp(corners_mm[:, 0])) / MODULES
    view = min(max(_NARROW_VIEW_PX, _NARROW_VIEW_BLURS * (blur_px or 0.0)) / module_px, _WIDE_VIEW)
    return view, view * module_px + 4


def refined_corners(plane: Floats, rough: Mapping[int, Floats], view: float) -> dict[int, Floats]:
    """Corners (4, 2) px by tag in linear light, by the four edges of each, seen from a `view` to either side of where `rough` has
    them, in modules; only of tags whose edges are all seen."""
    return {tag: _corners(lines) for tag, lines in _edges(plane, rough, view).items()}


def _corners(lines: list[Line]) -> Floats:
    return np.array([_intersection(lines[side - 1], lines[side]) for side in range(4)])


def _blur(plane: Floats, tags: list[tuple[Floats, list[Line]]]) -> float | None:
    """The blur (SD, px) that the edges of tags with these rough corners show; None where there are too few."""
    seen = [
        _edge_samples(plane, corners[side], corners[(side + 1) % 4], line) for corners, lines in tags for side, line in enumerate(lines)
    ]
    return _edge_spread(*(np.concatenate(part) for part in zip(*((e.distance_px, e.share) for e in seen), strict=True))) if seen else None


@dataclass(frozen=True, slots=True)
class EdgeProfile:
    """All edges of the tags laid on each other: distance from the edge (n,) px, + outward, stored values there, their number; and
    the values of the tags' black and of the paper around them."""

    distance_px: Floats
    codes: Floats
    count: Floats
    black: float
    white: float


def edge_profile(stored: Image, found: FoundTags) -> EdgeProfile | None:
    """From one channel (h, w) as stored and the tags' exact corners; None where they show too little."""
    sides = [(c[side], c[(side + 1) % 4]) for c in found.corners.values() for side in range(4)]
    seen = [_edge_samples(stored, start, stop, (start, (stop - start) / np.linalg.norm(stop - start))) for start, stop in sides]
    seen = [edge for edge in seen if len(edge.distance_px)]
    if sum(len(edge.distance_px) for edge in seen) < _ENOUGH_SAMPLES:
        return None
    black, white = (float(np.mean(levels)) for levels in zip(*((e.black, e.white) for e in seen), strict=True))
    distance, share, count = _binned(*(np.concatenate(part) for part in zip(*((e.distance_px, e.share) for e in seen), strict=True)))
    return EdgeProfile(distance, black + (white - black) * share, count, black, white)


def _edge_frame(start: Floats, stop: Floats, view: float = _WIDE_VIEW) -> tuple[Floats, Floats, float, float]:
    """Unit direction, outward normal, length and half reach of the profiles (a `view` of so many modules)."""
    length = float(np.linalg.norm(stop - start))
    along = (stop - start) / length
    outward = np.array([along[1], -along[0]])
    return along, outward, length, view * length / MODULES


def _edges(plane: Floats, corners: Mapping[int, Floats], view: float) -> dict[int, list[Line]]:
    """The four border edges of each tag from a `view` to either side, in modules; only of tags that show all four.

    Of all tags in one go: one by one they would take six times as long."""
    import cv2

    sides = [(tag, c[side], c[(side + 1) % 4]) for tag, c in corners.items() for side in range(4)]
    if not sides:
        return {}
    frames = [_edge_frame(start, stop, view) for _, start, stop in sides]
    along, outward = (np.stack([frame[i] for frame in frames]) for i in (0, 1))
    length, reach = (np.array([frame[i] for frame in frames]) for i in (2, 3))
    places = np.linspace(0.12, 0.88, _SAMPLES_ALONG) * length[:, None]
    count = int(np.ceil(2 * float(reach.max()) / _SAMPLE_PX)) + 1
    across = np.linspace(-1, 1, count) * reach[:, None]
    start = np.stack([start for _, start, _ in sides])
    grid = (start[:, None] + places[..., None] * along[:, None])[:, :, None] + (across[..., None] * outward[:, None])[:, None]
    low, high = grid.min(axis=(1, 2)), grid.max(axis=(1, 2))
    seen = np.all(low >= 1, axis=1) & np.all(high <= [plane.shape[1] - 2, plane.shape[0] - 2], axis=1)
    profiles = np.zeros(grid.shape[:3])
    for side in np.flatnonzero(seen):
        (left, top), (right, bottom) = np.floor(low[side]).astype(int) - 1, np.ceil(high[side]).astype(int) + 2
        part = np.ascontiguousarray(plane[top:bottom, left:right])
        x, y = np.moveaxis(grid[side] - (left, top), -1, 0).astype(np.float32)
        profiles[side] = cv2.remap(part, x, y, cv2.INTER_LINEAR)
    ends = max(2, count // 5)
    # The light may change along the edge: each profile is judged by the light of its own place.
    black, white = (_straightened(places, part.mean(axis=2)) for part in (profiles[..., :ends], profiles[..., -ends:]))
    seen &= ((white - black).min(axis=1) >= _LEAST_CONTRAST) & np.all(white >= _LEAST_RATIO * black, axis=1)
    span = np.where(seen[:, None], white - black, 1.0)[..., None]
    share = (profiles - black[..., None]) / span
    # Light integrated across the edge: exact for any symmetric blur, and calm under noise.
    step = across[:, 1:2] - across[:, :1]
    slope, shift = _robust_lines(places, reach[:, None] + step / 2 - share.sum(axis=2) * step)
    points, directions = start + shift[:, None] * outward, along + slope[:, None] * outward
    directions /= np.linalg.norm(directions, axis=1, keepdims=True)
    lines = list(zip(points, directions, strict=True))
    return {tag: lines[4 * i : 4 * i + 4] for i, tag in enumerate(corners) if seen[4 * i : 4 * i + 4].all()}


def _robust_lines(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Slopes and intercepts (n,) of `y` (n, m) over `x` (n, m) with outliers (dust, fibres) left out."""
    keep = np.ones(x.shape, dtype=bool)
    slope, shift = np.zeros(len(x)), np.median(y, axis=1)
    for _ in range(_LINE_ROUNDS):
        count = keep.sum(axis=1)
        middle_x, middle_y = ((v * keep).sum(axis=1) / count for v in (x, y))
        apart = (x - middle_x[:, None]) * keep
        slope = (apart * (y - middle_y[:, None])).sum(axis=1) / np.maximum((apart**2).sum(axis=1), 1e-12)
        shift = middle_y - slope * middle_x
        residual = np.abs(y - slope[:, None] * x - shift[:, None])
        limit = 3 * SPREAD_OF_MEDIAN * _medians(residual, keep) + 0.01
        keep = residual <= limit[:, None]
    return slope, shift


def _medians(values: Floats, keep: Mask) -> Floats:
    """Median (n,) of those of `values` (n, m) that are kept; numpy's own for missing values takes ten times as long."""
    rising = np.sort(np.where(keep, values, np.inf), axis=1)
    count, each = np.maximum(keep.sum(axis=1), 1), np.arange(len(values))
    return np.asarray((rising[each, (count - 1) // 2] + rising[each, count // 2]) / 2)


def _straightened(places: Floats, light: Floats) -> Floats:
    slope, shift = _robust_lines(places, light)
    return slope[:, None] * places + shift[:, None]


@dataclass(frozen=True, slots=True)
class _EdgeSamples:
    """The pixels beside one edge: signed distance (n,) px, + outward; their values as shares of the way from black to white."""

    distance_px: Floats
    share: Floats
    black: float = 0.0
    white: float = 1.0


def _edge_samples(plane: Image, start: Floats, stop: Floats, line: Line) -> _EdgeSamples:
    """The pixels themselves beside an edge; none where too few show it."""
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
    values = plane[low[1] : high[1], low[0] : high[0]][inside].astype(np.float32)
    distance = across[inside]
    outer, inner = distance > 0.7 * reach, distance < -0.7 * reach
    if outer.sum() < 8 or inner.sum() < 8:
        return _EdgeSamples(np.empty(0), np.empty(0))
    black, white = float(np.median(values[inner])), float(np.median(values[outer]))
    return _EdgeSamples(distance, (values - black) / max(white - black, 1e-6), black, white)


def _binned(distance_px: Floats, share: Floats) -> tuple[Floats, Floats, Floats]:
    """Mean distance, mean share and number of the samples in each eighth of a pixel that has some."""
    bins = np.round(distance_px * 8).astype(int)
    bins -= bins.min()
    count = np.bincount(bins)
    used = count > 0
    distance, mean = (np.bincount(bins, values)[used] / count[used] for values in (distance_px, share))
    return distance, mean, count[used].astype(float)


def _edge_spread(distance_px: Floats, share: Floats) -> float | None:
    """Standard deviation (px) of the blur whose integral the edges show; None where there is too little."""
    from scipy.special import erf

    if len(distance_px) < _ENOUGH_SAMPLES:
        return None
    widths = np.geomspace(0.28, 12, 90)
    d, v, count = _binned(distance_px, share)
    models = 0.5 * (1 + erf(d[None] / (np.sqrt(2) * widths[:, None])))
    cost = ((models - v) ** 2 * count).sum(axis=1)
    best = int(np.argmin(cost))
    if 0 < best < len(widths) - 1:
        log_widths, c = np.log(widths[best - 1 : best + 2]), cost[best - 1 : best + 2]
        bend = c[0] - 2 * c[1] + c[2]
        shift = 0.5 * (c[0] - c[2]) / bend if bend > 0 else 0.0
        return float(np.exp(log_widths[1] + shift * (log_widths[2] - log_widths[1])))
    return float(widths[best])


def _intersection(first: Line, second: Line) -> Floats:
    (p, u), (q, v) = first, second
    t = np.linalg.solve(np.column_stack([u, -v]), q - p)[0]
    return np.asarray(p + t * u)
