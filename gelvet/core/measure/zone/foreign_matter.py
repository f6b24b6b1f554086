"""What lies in a zone and is not its paint: dust, hairs, pencil, ink, pale specks, places that the brush did not reach."""

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.measure.values import MINIMUM_PIXELS, ZonePixels, tint_depth
from gelvet.core.measure.zone.strokes import thin_strokes
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Kinds whose darkest places are their own.
_UNEVEN_KINDS = {"gradient", "tilt", "effect", "wet_drop", "water_drop"}
# Kinds that paint covers from edge to edge, and what of them counts as bare paper: a share of the depth of the rest.
_COVERED_KINDS = {"masstone", "wash", "step", "glaze", "beside_ink", "unlifted", "covered", "mix"}
_BARE_SHARE, _BARELY_PAINTED, _WORTH_LEAVING_OUT, _COARSE_PIXELS_PER_MM = 0.2, 0.03, 0.03, 2.0
# What is darker than the zone by so many of its spreads, and by so much depth, is foreign to it: strokes (a hair, a pencil's line,
# a letter) are longer than so many mm. Grain has its own dark tail, so that a speck must be further out than a stroke; and specks
# this many to a square centimetre are grains that clump, since dust and spatter are rarer.
_STROKE_SPREADS, _SPECK_SPREADS, _FOREIGN_DEPTH, _STROKE_MM, _GRAINS_A_CM2 = 8.0, 12.0, 0.12, 2.0, 25.0
# A hair, however it bends, is a line that is dark and thin all along, in mm; grain that is half as far out lies in clumps.
_HAIR_SPREADS, _HAIR_MM, _HAIR_WIDE_MM = 4.0, 3.0, 0.35
# Unevenness, as a share of the depth, at which pale specks are looked for; above the second a speck of half the depth is within
# the tail of the grain, and is left to it where grain is judged.
_EVEN, _GRAINY, _TOO_GRAINY = 0.01, 0.10, 0.20
# How far off its paint's colour a speck is, in the middle distance of all and in ΔE*ab, and how much of the zone such may cover.
_OFF_SPREADS, _OFF_LEAST, _OFF_SHARE, _OFF_RIM_MM = 16.0, 6.0, 0.03, 0.3
_PATTERNED_KINDS = {"lifted", "effect", "wet_drop", "water_drop"}


def without_foreign_matter(pixels: ZonePixels, kind: str, paper: Floats | None, *, for_grain: bool = False) -> ZonePixels:
    """Leaves out dust, pencil and ink (far darker than the zone) and, in even zones, isolated pale specks and places that the
    brush did not reach; `for_grain` leaves in what may be the grain's own."""
    reference = paper if paper is not None else np.full(3, 95.0)
    depth = tint_depth(pixels.xyz, reference)
    good = pixels.good
    if good.sum() < MINIMUM_PIXELS:
        return pixels
    seen = depth[good]
    middle = float(np.median(seen))
    spread = SPREAD_OF_MEDIAN * float(np.median(np.abs(seen - middle)))
    foreign = np.zeros_like(good)
    if kind not in _UNEVEN_KINDS:
        foreign = _grown(_dust_and_strokes(depth - middle, spread, pixels.pixels_per_mm))
        foreign |= thin_strokes(depth, good, pixels.pixels_per_mm)
        foreign |= _grown(_grown(_hairs(depth - middle, spread, pixels.pixels_per_mm)))
    painted = kind not in _PATTERNED_KINDS | {"gradient", "paper", "ink", "over_ink"} and middle > 0.02
    if painted and _EVEN <= spread / middle <= (_GRAINY if for_grain else _TOO_GRAINY):
        foreign |= _grown(_pale_specks((depth < 0.5 * middle) & good, pixels.pixels_per_mm))
    if kind in _COVERED_KINDS:
        foreign |= _bare(depth, good, pixels.pixels_per_mm)
    return ZonePixels(xyz=pixels.xyz, good=good & ~foreign, pixels_per_mm=pixels.pixels_per_mm)


def _bare(depth: Floats, good: Mask, pixels_per_mm: float) -> Mask:
    """Where a zone that should be painted throughout shows its paper over millimetres; no grain or streak is as wide."""
    import cv2

    nothing = np.zeros_like(good)
    size = tuple(max(1, round(side / pixels_per_mm * _COARSE_PIXELS_PER_MM)) for side in depth.shape[::-1])
    coarse = cv2.GaussianBlur(cv2.resize(depth.astype(np.float32), size, interpolation=cv2.INTER_AREA), (0, 0), 1.0)
    deep = float(np.quantile(coarse, 0.75))
    if deep < _BARELY_PAINTED:
        return nothing
    bare = np.asarray(coarse < _BARE_SHARE * deep, dtype=np.uint8)
    if bare.mean() < _WORTH_LEAVING_OUT:
        return nothing
    # The rim, over which the paint thins out, belongs to neither.
    grown = cv2.dilate(bare, np.ones((5, 5), np.uint8))
    return np.asarray(cv2.resize(grown, depth.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _grown(mask: Mask) -> Mask:
    """One pixel wider: the blurred rim belongs to the speck."""
    if not mask.any():
        return mask
    import cv2

    return np.asarray(cv2.dilate(mask.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0)


def _dust_and_strokes(deeper: Floats, spread: float, pixels_per_mm: float) -> Mask:
    """Of what is far deeper than its zone: strokes, and specks where they are rare."""
    dark = deeper > max(_STROKE_SPREADS * spread, _FOREIGN_DEPTH)
    if not dark.any():
        return np.asarray(dark)
    import cv2

    _, labels, stats, _ = cv2.connectedComponentsWithStats(dark.astype(np.uint8), connectivity=8)
    stroke = stats[:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1) > _STROKE_MM * pixels_per_mm
    stroke[0] = False  # what is not dark
    area_cm2 = dark.size / (10 * pixels_per_mm) ** 2
    grains = len(stats) - 1 - np.count_nonzero(stroke) >= _GRAINS_A_CM2 * area_cm2
    specks = np.zeros_like(dark) if grains else deeper > max(_SPECK_SPREADS * spread, _FOREIGN_DEPTH)
    return np.asarray(stroke[labels] | specks)


def _hairs(deeper: Floats, spread: float, pixels_per_mm: float) -> Mask:
    """Of what is deeper than its zone (h, w): lines that are long against their width."""
    import cv2

    dark = deeper > max(_HAIR_SPREADS * spread, _FOREIGN_DEPTH)
    if not dark.any():
        return np.asarray(dark)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(dark.astype(np.uint8), connectivity=8)
    long = np.hypot(stats[:, cv2.CC_STAT_WIDTH], stats[:, cv2.CC_STAT_HEIGHT]) / pixels_per_mm
    half_px: Floats = np.zeros(len(stats), dtype=np.float32)  # how far the innermost place of each lies from what is not dark
    inward = np.asarray(cv2.distanceTransform(dark.astype(np.uint8), cv2.DIST_L2, 3))
    np.maximum.at(half_px, labels[dark].astype(np.intp), inward[dark])
    hair = (long > _HAIR_MM) & (2 * half_px < _HAIR_WIDE_MM * pixels_per_mm + 1)
    hair[0] = False  # what is not dark
    return np.asarray(hair[labels])


def rare_specks(off: Floats, pixels_per_mm: float) -> Mask:
    """Where colours (h, w), as distances from what the paint is at that depth, lie so far off and so rarely that they are dust or
    another paint's spatter: on a paint that granulates, dust is no darker than a clump."""
    import cv2

    spread = float(np.sqrt(np.median(off**2)))
    far = off > max(_OFF_SPREADS * spread, _OFF_LEAST)
    if not far.any() or far.mean() > _OFF_SHARE:
        return np.zeros_like(far)
    count, _ = cv2.connectedComponents(far.astype(np.uint8), connectivity=8)
    if count - 1 >= _GRAINS_A_CM2 * far.size / (10 * pixels_per_mm) ** 2:
        return np.zeros_like(far)
    rim = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * round(_OFF_RIM_MM * pixels_per_mm) + 1,) * 2)
    return np.asarray(cv2.dilate(far.astype(np.uint8), rim) > 0)


def _pale_specks(pale: Mask, pixels_per_mm: float) -> Mask:
    """Of what is pale, specks under 0.5 mm with none within 1 mm."""
    import cv2

    count, labels, stats, centres = cv2.connectedComponentsWithStats(pale.astype(np.uint8), connectivity=8)
    size = stats[1:, [cv2.CC_STAT_WIDTH, cv2.CC_STAT_HEIGHT]].max(axis=1, initial=0) / pixels_per_mm
    chosen = np.zeros_like(pale)
    for index in range(1, count):
        gaps = np.linalg.norm(centres[1:] - centres[index], axis=1) / pixels_per_mm
        if size[index - 1] < 0.5 and np.count_nonzero(gaps < 1.0) == 1:
            chosen |= labels == index
    return chosen
