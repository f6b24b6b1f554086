"""Swatches that touch or run into each other: parted where what is painted has a neck, a line of bare paper, or a step of colour."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask
from gelvet.core.loose_sheet.paint_depth import SheetDepth

# A neck is narrower than this share of what lies on either side of it.
_NECK = 0.6
_LEVEL_MM, _LEAST_CORE_MM = 0.25, 0.9
# What is bare between two swatches runs on for so long; hollows between grains do not.
_GAP_LENGTH_MM = 5.0
# Grain is taken away by a median this wide; across so much of it a step of colour changes by more than this density, and by such a
# share of the deeper side; and so do the means so far to both sides of all of it, which those of grain and of blooms do not.
_CALM_MM, _ACROSS_MM, _BESIDE_MM = 2.4, 1.2, 1.5
_STEP, _STEP_SHARE = 0.06, 0.25
# A line of bare paper, narrower than this, is lighter than what lies on both sides by so much, and by such a share, in the mean over
# some of its length; it runs on for as long as this. Hollows between grains do not.
_LINE_MM, _LINE_DEPTH, _LINE_SHARE, _LINE_MEAN_MM, _LINE_LENGTH_MM = 1.2, 0.05, 0.3, 5.0, 7.0
# Densities up to this are told from each other.
_DEEPEST = 2.0


@dataclass(frozen=True, slots=True)
class Touching:
    """What parts the swatches of one sheet: `calm` density (h, w, 3) in 256 steps without its grain, where it `steps` (h, w), and where
    `lines` of bare paper run (h, w)."""

    calm: Image
    steps: Mask
    lines: Mask
    pixels_per_mm: float

    def parted(self, painted: Mask, filled: Mask, box: tuple[int, int, int, int]) -> list[Mask]:
        """`painted` (h, w), one place or several that touch, in parts that do not overlap; of it `filled` is bare between grains or
        between swatches, and `box` is its left, top, right and bottom (exclusive) on the sheet."""
        import cv2

        place = np.s_[box[1] : box[3], box[0] : box[2]]
        solid = painted & ~_long(filled, _GAP_LENGTH_MM * self.pixels_per_mm) & ~self.lines[place]
        cores = _cores(_depth_inside(solid & ~self.steps[place]), self.pixels_per_mm)
        count = int(cores.max())
        if count < 2:
            return [painted]
        calm = np.ascontiguousarray(self.calm[place])
        barred = np.where(self.lines[place][..., None], np.uint8(255), calm)
        flooded = np.asarray(cv2.watershed(barred, np.where(painted, cores, count + 1).astype(np.int32)))
        nearest = _spread(np.where((flooded > 0) & (flooded <= count), flooded, 0))
        parts = [np.asarray((nearest == number) & painted) for number in range(1, count + 1)]
        while (pair := self._one_swatch(calm, parts, solid)) is not None:
            first, second = pair
            parts[first] = parts[first] | parts[second]
            del parts[second]
        return parts

    def _one_swatch(self, calm: Image, parts: list[Mask], solid: Mask) -> tuple[int, int] | None:
        """The first two of `parts` that have neither a neck, a gap, a line nor a step of colour between them."""
        import cv2

        reach = max(2, round(_BESIDE_MM * self.pixels_per_mm))
        disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
        near = [np.asarray(cv2.dilate(p.astype(np.uint8), disc) > 0) for p in parts]
        next_to = [np.asarray(cv2.dilate((p & solid).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0) for p in parts]
        for first, second in combinations(range(len(parts)), 2):
            contact = np.count_nonzero(next_to[first] & parts[second] & solid)
            narrower = 2 * min(float(_depth_inside(parts[n]).max()) for n in (first, second)) if contact else 0.0
            if contact <= _NECK * narrower:
                continue
            sides = parts[first] & near[second], parts[second] & near[first]
            levels = [calm[side].mean(axis=0) * (_DEEPEST / 255) for side in sides]
            if np.abs(levels[0] - levels[1]).max() <= max(_STEP, _STEP_SHARE * max(float(v.max()) for v in levels)):
                return first, second
        return None


def touching(sheet: SheetDepth) -> Touching:
    """What tells the swatches of `sheet` apart."""
    calm = _calm(sheet)
    return Touching(calm, _steps(calm, sheet.pixels_per_mm), _bare_lines(sheet), sheet.pixels_per_mm)


def _calm(sheet: SheetDepth) -> Image:
    import cv2

    steps = np.clip(sheet.density * (255 / _DEEPEST), 0, 255).astype(np.uint8)
    side = max(3, round(_CALM_MM * sheet.pixels_per_mm) | 1)
    return np.ascontiguousarray(np.stack([cv2.medianBlur(np.ascontiguousarray(steps[..., c]), side) for c in range(3)], axis=-1))


def _steps(calm: Image, scale: float) -> Mask:
    """Where colour steps (h, w): up or down, left or right."""
    reach = max(1, round(_ACROSS_MM / 2 * scale))
    density = calm.astype(np.float32) * np.float32(_DEEPEST / 255)
    found = np.zeros(calm.shape[:2], dtype=bool)
    for axis in (0, 1):
        seen = density if axis == 1 else density.swapaxes(0, 1)
        before, after = seen[:, : -2 * reach], seen[:, 2 * reach :]
        jump, level = np.abs(after - before).max(axis=-1), np.maximum(after, before).max(axis=-1)
        stepped = jump > np.maximum(_STEP, _STEP_SHARE * level)
        place = found if axis == 1 else found.T
        place[:, reach:-reach] |= stepped
    return found


def _bare_lines(sheet: SheetDepth) -> Mask:
    """Lines of bare paper (h, w) between swatches, upright or level."""
    import cv2

    scale = sheet.pixels_per_mm
    depth = np.ascontiguousarray(sheet.depth)
    found = np.zeros(depth.shape, dtype=bool)
    along, across = max(3, round(_LINE_MEAN_MM * scale) | 1), max(3, round(_LINE_MM * scale) | 1)
    for upright in (True, False):
        mean = cv2.blur(depth, (1, along) if upright else (along, 1))
        beside = cv2.morphologyEx(mean, cv2.MORPH_CLOSE, np.ones((1, across) if upright else (across, 1), np.uint8))
        lines = _long(np.asarray(beside - mean > np.maximum(_LINE_DEPTH, _LINE_SHARE * beside)), _LINE_LENGTH_MM * scale)
        # They fade where the mean reaches beyond the paint, and part it all the same.
        found |= cv2.dilate(lines.astype(np.uint8), np.ones((across, 1) if upright else (1, across), np.uint8)) > 0
    return found


def _spread(numbered: Image) -> Image:
    """The number (h, w) of the nearest place that has one: paper floods pale edges, and a line is drawn where floods meet."""
    import cv2

    _, nearest = cv2.distanceTransformWithLabels(
        (numbered == 0).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_5, labelType=cv2.DIST_LABEL_PIXEL
    )
    own = np.zeros(int(nearest.max()) + 1, dtype=np.int32)
    own[nearest[numbered > 0]] = numbered[numbered > 0]
    return np.asarray(own[nearest])


def _long(mask: Mask, least: float) -> Mask:
    """The places of `mask` (h, w) that run on for so many samples."""
    import cv2

    _, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    runs = np.asarray(stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1) >= least)
    runs[0] = False
    return np.asarray(runs[labels])


def _depth_inside(mask: Mask) -> Floats:
    """Distance (h, w) in samples from the outside of `mask`."""
    import cv2

    return np.asarray(cv2.distanceTransform(np.pad(mask, 1).astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1])


def _cores(inside: Floats, scale: float) -> Image:
    """The middles (h, w) int32 of what necks part, numbered from 1: parted at the lowest neck first, then each part by itself."""
    import cv2

    numbered: Image = np.zeros(inside.shape, dtype=np.int32)
    if inside.max() < _LEAST_CORE_MM * scale:
        return numbered
    peak = float(inside.max())
    for neck in np.arange(0.0, _NECK * peak, _LEVEL_MM * scale):
        count, labels, stats, _ = cv2.connectedComponentsWithStats((inside > neck).astype(np.uint8), connectivity=4)
        parts = [np.s_[y : y + height, x : x + width] for x, y, width, height, _ in stats[1:count].tolist()]
        own = [np.where(labels[part] == number, inside[part], 0) for number, part in enumerate(parts, 1)]
        wide = [n for n, seen in enumerate(own) if seen.max() >= max(neck / _NECK, _LEAST_CORE_MM * scale)]
        if len(wide) > 1:
            for n in wide:
                cores = _cores(own[n], scale)
                np.copyto(numbered[parts[n]], cores + int(numbered.max()), where=cores > 0)
            return numbered
    numbered[inside > _NECK * peak] = 1
    return numbered
