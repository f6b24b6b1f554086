"""The tags' corners to a fraction of a pixel: each edge by the light that it divides, and the blur that the edges show."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.placing.fiducials import MINIMUM_TAGS, FoundTags, place_card, tag_corners_mm
from gelvet.core.card.dictionary import MODULES
from gelvet.core.card.layout import Layout

Line = tuple[Floats, Floats]  # a point and a direction, px
_SAMPLES_ALONG = 40
# How far to either side of a tag's edge its light is looked at: in modules, and closer, in pixels and in widths of the blur.
_WIDE_VIEW = 0.7
_NARROW_VIEW_PX, _NARROW_VIEW_BLURS, _NARROW_ROUNDS = 4.0, 5.0, 2


def refine_tags(linear_green: Floats, found: FoundTags, layout: Layout) -> FoundTags:
    """Corners as intersections of the four border edges, each located by the light it divides, and the blur.

    `linear_green` (h, w) float32 in linear light: on tone-curved values the edges would shift. First each tag by itself with a
    wide view, then once more with a narrow one, from where all tags together say that it is: the unevenness of paper under a
    low lamp shifts an edge by as much as the view is wide.
    """
    edges = {tag: _edges(linear_green, rough, _WIDE_VIEW) for tag, rough in found.corners.items()}
    seen = {tag for tag, lines in edges.items() if lines is not None}
    corners = {tag: rough if (lines := edges[tag]) is None else _corners(lines) for tag, rough in found.corners.items()}
    blur_px = _blur(linear_green, [(found.corners[tag], lines) for tag, lines in edges.items() if lines is not None])
    for _ in range(_NARROW_ROUNDS):
        sure = {tag: corners[tag] for tag in seen} if len(seen) > MINIMUM_TAGS else corners
        geometry, rejected = place_card(FoundTags(corners=sure, image_size=found.image_size), layout)
        module_px = geometry.pixels_per_mm * layout.tags[0].size_mm / MODULES
        view = max(_NARROW_VIEW_PX, _NARROW_VIEW_BLURS * (blur_px or 0.0)) / module_px
        if view >= _WIDE_VIEW:
            break
        for tag in (t for t in layout.tags if t.id in corners and t.id not in rejected):
            closer = _edges(linear_green, geometry.to_pixels(tag_corners_mm(tag)), view)
            if closer is not None:
                corners[tag.id] = _corners(closer)
    return FoundTags(corners=corners, image_size=found.image_size, blur_px=blur_px)


def _edges(plane: Floats, corners: Floats, view: float) -> list[Line] | None:
    """The four border edges of a tag from a `view` to either side, in modules; None where one is not seen."""
    lines: list[Line] = []
    for side in range(4):
        line = _edge_line(plane, corners[side], corners[(side + 1) % 4], view)
        if line is None:
            return None
        lines.append(line)
    return lines


def _corners(lines: list[Line]) -> Floats:
    return np.array([_intersection(lines[side - 1], lines[side]) for side in range(4)])


def _blur(plane: Floats, tags: list[tuple[Floats, list[Line]]]) -> float | None:
    """The blur (SD, px) that the edges of tags with these rough corners show; None where there are too few."""
    samples = [
        _edge_samples(plane, corners[side], corners[(side + 1) % 4], line) for corners, lines in tags for side, line in enumerate(lines)
    ]
    return _edge_spread(*(np.concatenate(part) for part in zip(*samples, strict=True))) if samples else None


def _edge_frame(start: Floats, stop: Floats, view: float = _WIDE_VIEW) -> tuple[Floats, Floats, float, float]:
    """Unit direction, outward normal, length and half reach of the profiles (a `view` of so many modules)."""
    length = float(np.linalg.norm(stop - start))
    along = (stop - start) / length
    outward = np.array([along[1], -along[0]])
    return along, outward, length, view * length / MODULES


def _edge_line(plane: Floats, start: Floats, stop: Floats, view: float) -> Line | None:
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


def _edge_samples(plane: Floats, start: Floats, stop: Floats, line: Line) -> tuple[Floats, Floats]:
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


def _intersection(first: Line, second: Line) -> Floats:
    (p, u), (q, v) = first, second
    t = np.linalg.solve(np.column_stack([u, -v]), q - p)[0]
    return np.asarray(p + t * u)
