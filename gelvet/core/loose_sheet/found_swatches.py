"""Painted places on light paper: connected, thicker than a pencil's line, each with the rectangle that it holds."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask
from gelvet.core.card.layout import Axis, Rect
from gelvet.core.loose_sheet.paint_depth import SheetDepth
from gelvet.core.loose_sheet.step_along import step_along
from gelvet.core.loose_sheet.touching import touching

# Paint is what stands out of the paper's own unevenness, and by this much at least: the palest of washes.
_PALEST, _NOISES = 0.03, 5.0
_SMOOTH_MM, _NARROW_MM, _GAP_MM = 0.4, 1.8, 1.0
# Writing: strokes narrower than this, so much deeper than the bare paper on both sides of them.
_STROKE_MM, _STROKE_DEPTH, _BARE_DEPTH, _STROKE_RIM_MM = 1.3, 0.2, 0.06, 0.35
_SMALLEST_MM = 3.0
# A thing that runs along this share of one of the sheet's edges is the table, a lid or a shadow.
_ALONG_EDGE = 0.5
_RIM_MM = 0.7
# Print turns from paper to ink within a stroke's width; no paint grains that much.
_PRINT_PALEST, _PRINT_DARKEST = 0.12, 0.8
_GRADIENT_SLIMNESS, _GRADIENT_RATIO, _GRADIENT_ORDER = 1.4, 1.8, 0.85
_COARSE = 72
_MOST_RECTANGLES, _NEARLY_AS_LARGE = 12, 0.3
Box = tuple[int, int, int, int]  # left, top, right and bottom (exclusive), in samples


@dataclass(frozen=True, slots=True)
class FoundSwatch:
    """A painted place: the rectangle inside it, its middle depth, and the way it pales where it is a gradient."""

    rect: Rect
    depth: float
    axis: Axis | None


def find_swatches(sheet: SheetDepth) -> list[FoundSwatch]:
    """What is painted on the sheet, in reading order."""
    import cv2

    wide = _painted(sheet)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(_drawn_together(sheet, wide), connectivity=4)
    apart, found = touching(sheet), []
    for number in range(1, count):
        x, y, width, height, area = (int(v) for v in stats[number])
        if not _large(width, height, area, sheet.pixels_per_mm) or _lies_along_an_edge(np.asarray(labels == number)):
            continue
        box = (x, y, x + width, y + height)
        own = wide[y : y + height, x : x + width]
        painted = np.asarray(labels[y : y + height, x : x + width] == number)
        for part in apart.parted(painted, painted & ~own, box):
            found += _swatches_on(sheet, np.asarray(_drawn_together(sheet, own & part) & part, dtype=bool), (x, y))
    return _in_reading_order(found)


def _large(width: int, height: int, area: int, scale: float) -> bool:
    return min(width, height) >= _SMALLEST_MM * scale and area >= (_SMALLEST_MM * scale) ** 2


def _swatches_on(sheet: SheetDepth, part: Mask, corner: tuple[int, int]) -> list[FoundSwatch]:
    """What the rectangles inside one painted `part` (h, w) hold, whose top left is at `corner` (x, y) of the sheet."""
    rows, columns = (np.flatnonzero(part.any(axis=axis)) for axis in (1, 0))
    if not _large(len(columns), len(rows), int(np.count_nonzero(part)), sheet.pixels_per_mm):
        return []
    x, y = corner[0] + int(columns[0]), corner[1] + int(rows[0])
    mask = _without_holes(part[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1])
    boxes = _rectangles(mask, _SMALLEST_MM * sheet.pixels_per_mm)
    return [s for left, top, right, bottom in boxes for s in _swatches_in(sheet, (x + left, y + top, x + right, y + bottom))]


def _painted(sheet: SheetDepth) -> Mask:
    """Where paint lies (h, w), writing taken away."""
    import cv2

    scale = sheet.pixels_per_mm
    opened = cv2.morphologyEx(sheet.depth, cv2.MORPH_OPEN, _disc(_STROKE_MM * scale))
    strokes = np.asarray((sheet.depth - opened > _STROKE_DEPTH) & (opened < _BARE_DEPTH), dtype=np.uint8)
    written = np.asarray(cv2.dilate(strokes, _disc(2 * _STROKE_RIM_MM * scale))) > 0
    smooth = cv2.GaussianBlur(np.where(written, np.minimum(opened, sheet.depth), sheet.depth), (0, 0), _SMOOTH_MM * scale)
    painted = np.asarray((smooth > max(_PALEST, _NOISES * sheet.noise)) & sheet.shown, dtype=np.uint8)
    return np.asarray(cv2.morphologyEx(painted, cv2.MORPH_OPEN, _disc(_NARROW_MM * scale)) > 0)


def _drawn_together(sheet: SheetDepth, painted: Mask) -> Image:
    """`painted` (h, w) uint8 with its hollows between grains."""
    import cv2

    return np.asarray(cv2.morphologyEx(painted.astype(np.uint8), cv2.MORPH_CLOSE, _disc(_GAP_MM * sheet.pixels_per_mm)))


def _without_holes(mask: Mask) -> Mask:
    """`mask` (h, w) with what it encloses."""
    import cv2

    outlines, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return np.asarray(cv2.drawContours(np.zeros(mask.shape, np.uint8), outlines, -1, 1, cv2.FILLED) > 0)


def _swatches_in(sheet: SheetDepth, box: Box) -> list[FoundSwatch]:
    """The swatches of a painted rectangle (left, top, right, bottom in samples), less their rims: divided where its colour steps; what
    is too small, or print, is none."""
    left, top, right, bottom = box
    scale = sheet.pixels_per_mm
    if min(right - left, bottom - top) < _SMALLEST_MM * scale:
        return []
    part = sheet.density[top:bottom, left:right]
    lengthwise = right - left >= bottom - top
    at = step_along(part if lengthwise else part.swapaxes(0, 1), scale)
    if at is not None:
        first, second = ((left, top, left + at, bottom), (left + at, top, right, bottom))
        if not lengthwise:
            first, second = ((left, top, right, top + at), (left, top + at, right, bottom))
        return _swatches_in(sheet, first) + _swatches_in(sheet, second)
    depth = part.max(axis=-1)
    rect = Rect(left / scale, top / scale, (right - left) / scale, (bottom - top) / scale).inset(_RIM_MM)
    if min(rect.width, rect.height) < _SMALLEST_MM - 2 * _RIM_MM or _is_print(depth, scale):
        return []
    return [FoundSwatch(rect, float(np.median(depth)), _gradient_axis(depth))]


def _is_print(depth: Floats, scale: float) -> bool:
    """Whether a place (h, w) is a code or lettering: nearly all of it near both ink and bare paper."""
    import cv2

    near = _disc(_STROKE_MM * scale)
    darkest, palest = np.median(cv2.dilate(depth, near)), np.median(cv2.erode(depth, near))
    return bool(palest < _PRINT_PALEST and darkest > _PRINT_DARKEST)


def _disc(diameter: float) -> Image:
    import cv2

    side = max(3, round(diameter) | 1)
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))


def _lies_along_an_edge(mask: Mask) -> bool:
    edges = (mask[:2].any(axis=0), mask[-2:].any(axis=0), mask[:, :2].any(axis=1), mask[:, -2:].any(axis=1))
    return any(float(edge.mean()) > _ALONG_EDGE for edge in edges)


def _rectangles(mask: Mask, smallest: float) -> list[Box]:
    """What touches may be several swatches: the largest rectangle inside `mask`, and others nearly as large beside it."""
    left_over = mask.copy()
    found: list[Box] = []
    while len(found) < _MOST_RECTANGLES and (inside := largest_rectangle(left_over)) is not None:
        left, top, right, bottom = inside
        if min(right - left, bottom - top) < smallest or (found and _area(inside) < _NEARLY_AS_LARGE * _area(found[0])):
            break
        found.append(inside)
        left_over[top:bottom, left:right] = False
    return found


def _area(box: Box) -> int:
    return (box[2] - box[0]) * (box[3] - box[1])


def largest_rectangle(mask: Mask) -> Box | None:
    """Left, top, right and bottom (exclusive) of the largest upright rectangle inside `mask` (h, w), by a coarse grid; None
    where it holds none."""
    import cv2

    step = max(1, -(-max(mask.shape) // _COARSE))
    height, width = (-(-side // step) for side in mask.shape)
    padded = np.zeros((height * step, width * step), dtype=np.float32)
    padded[: mask.shape[0], : mask.shape[1]] = mask
    share = cv2.resize(padded, (width, height), interpolation=cv2.INTER_AREA)
    full = np.asarray(share > 0.97).reshape(height, width)
    best, place = 0, None
    for top in range(height):
        columns = np.ones(width, dtype=bool)
        for bottom in range(top + 1, height + 1):
            columns &= full[bottom - 1]
            if np.count_nonzero(columns) * (height - top) <= best:
                break  # not even as far down as the mask goes
            start, length = _longest_run(columns)
            if length * (bottom - top) > best:
                best, place = length * (bottom - top), (start, top, start + length, bottom)
    if place is None:
        return None
    left, top, right, bottom = (v * step for v in place)
    return left, top, min(right, mask.shape[1]), min(bottom, mask.shape[0])


def _longest_run(row: Mask) -> tuple[int, int]:
    """Start and length of the longest run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], row, [False]]).astype(np.int8)))
    lengths = edges[1::2] - edges[::2]
    longest = int(np.argmax(lengths))
    return int(edges[2 * longest]), int(lengths[longest])


def _gradient_axis(depth: Floats) -> Axis | None:
    """The way along which a long place pales steadily from masstone to wash; None where it is even."""
    lengthwise = depth.shape[1] >= depth.shape[0]
    length, breadth = (depth.shape[1], depth.shape[0]) if lengthwise else depth.shape
    if length < _GRADIENT_SLIMNESS * breadth or length < 12:
        return None
    profile = np.median(depth, axis=0 if lengthwise else 1)
    part = max(1, length // 8)
    ends = float(np.median(profile[:part])), float(np.median(profile[-part:]))
    ranks = np.argsort(np.argsort(profile))
    order = float(np.corrcoef(np.arange(length), ranks)[0, 1])  # Spearman's; scipy.stats would take longer to load than all of this to run
    if max(ends) < _GRADIENT_RATIO * max(min(ends), 0.01) or abs(order) < _GRADIENT_ORDER:
        return None
    if lengthwise:
        return "+x" if ends[0] > ends[1] else "-x"
    return "+y" if ends[0] > ends[1] else "-y"


def _in_reading_order(found: list[FoundSwatch]) -> list[FoundSwatch]:
    """Row by row; places that overlap in height stand in one row."""
    rows: list[list[FoundSwatch]] = []
    for swatch in sorted(found, key=lambda s: s.rect.y):
        row = next((r for r in rows if r[0].rect.y < swatch.rect.centre[1] < r[0].rect.bottom), None)
        if row is None:
            rows.append([swatch])
        else:
            row.append(swatch)
    return [swatch for row in rows for swatch in sorted(row, key=lambda s: s.rect.x)]
