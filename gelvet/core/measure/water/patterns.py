"""What water does: paint touched into a wet patch, water dropped into a wash, a strip that ran, patterns made on purpose
(measurement.md 9)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.card.layout import Axis
from gelvet.core.colour.spaces import lightness, xyz_to_lab
from gelvet.core.measure.quantities.colour import DilutionPath
from gelvet.core.measure.quantities.water import Effect, Tilt, WaterDrop, WetDrop
from gelvet.core.measure.values import Absent, Figure, ZoneColour, ZonePixels, tint_depth
from gelvet.core.measure.water.drop_outline import outline

_RING_MM = 0.2
_PALEST_CENTRE = 0.05
_FRONT = 0.1
_LEAST_USED = 0.5
_SMALLEST_MM = 5.0
_HEAD_SHARE = 0.18
_CLEAR_OF_RIM_MM, _FEWEST_OUTSIDE = 1.3, 100
# How far the darkest ring of a drop is known, in mm of its radius; a pattern's contrast and size, as shares of them (k = 1, in trials).
_RING_U_MM, _CONTRAST_U, _SIZE_U = 0.05, 0.05, 0.05
_LEAST_CONTRAST = 0.3
# What colours of one paint at two places err by that they do not share, as a share of what each errs by, and at least (ΔE, k = 1).
_NOT_SHARED, _LEAST_PARTED = 0.3, 0.15

# Standard uncertainty in CIEDE2000 that the calibration leaves a colour (3,) in L*, a*, b*.
Doubt = Callable[[Floats], float]


@dataclass(frozen=True, slots=True)
class _Rings:
    """Mean tint depth (n,) and XYZ (n, 3) of rings at `radius` (n,) mm round a place, as far as they lie wholly in the zone."""

    radius: Floats
    depth: Floats
    xyz: Floats


def wet_drop(pixels: ZonePixels, paper: Floats, path: DilutionPath | Absent, doubt: Doubt) -> WetDrop | Absent:
    """How far the paint ran from where it was touched in; its front is where a tenth of the centre's depth is left."""
    refusal = _refusal(pixels)
    if refusal:
        return refusal
    depth = _smooth_depth(pixels, paper)
    strong = depth > 0.5 * float(np.quantile(depth[pixels.good], 0.98))
    rings = _rings(pixels, depth, _centroid(strong & pixels.good))
    centre = float(rings.depth[: max(1, int(0.8 / _RING_MM))].mean())
    if centre < _PALEST_CENTRE:
        return Absent("no paint is seen where it should have been touched into the wet patch")
    reach = _falls_to(rings, _FRONT * centre)
    at_rim = _falls_to(rings, 0.3 * centre)
    rim = _colour_at(rings, at_rim if at_rim is not None else float(rings.radius[-1]))
    middle = rings.xyz[: max(1, int(0.8 / _RING_MM))].mean(axis=0)
    return WetDrop(
        reach_mm=reach,
        u=_RING_U_MM + 0.01 * (reach or 0.0),
        centre=xyz_to_lab(middle),
        rim=xyz_to_lab(rim),
        colour_u=max(doubt(xyz_to_lab(middle)), doubt(xyz_to_lab(rim))),
        parted=_parted(middle, rim, paper, path),
        profile=np.column_stack([rings.radius, rings.depth]),
    )


def water_drop(pixels: ZonePixels, paper: Floats) -> WaterDrop | Absent:
    """Area inside the darkest ring round the pale place, and that ring's depth over that of the wash outside."""
    refusal = _refusal(pixels)
    if refusal:
        return refusal
    depth = _smooth_depth(pixels, paper)
    middle = float(np.median(depth[pixels.good]))
    if middle < _PALEST_CENTRE:
        return Absent("the wash is nearly paper, too pale to see what the water did")
    place = _centroid(_middle_piece((depth < 0.75 * middle) & pixels.good))
    if place is None:
        return Absent("no pale place is seen where the water should have dropped")
    rings = _rings(pixels, depth, place)
    top = int(np.argmax(rings.depth))
    ran = Absent("the water ran to the zone's edge")
    if top in {0, len(rings.depth) - 1}:
        return ran
    sharp = tint_depth(pixels.xyz, paper)
    ring = outline(sharp, pixels.good, place, float(rings.radius[top]), pixels.pixels_per_mm)
    if ring is None:
        return ran
    outer = depth[pixels.good & ring.outside(depth.shape, pixels.pixels_per_mm, _CLEAR_OF_RIM_MM)]
    if len(outer) < _FEWEST_OUTSIDE:
        return ran
    outside = float(np.median(outer))
    rim = ring.depth / outside
    return WaterDrop(
        area_mm2=ring.area_mm2,
        area_u=float(2 * np.sqrt(np.pi * ring.area_mm2) * _RING_U_MM),
        rim=rim,
        u=float(rim * np.hypot(0.02, outer.std() / outside / np.sqrt(len(outer) / pixels.pixels_per_mm**2))),
        profile=np.column_stack([rings.radius, rings.depth]),
    )


def tilt(pixels: ZonePixels, axis: Axis, paper: Floats, path: DilutionPath | Absent, doubt: Doubt) -> Tilt | Absent:
    """Colour where the strip began and where it ran to, and how far its components ran apart."""
    if pixels.used_fraction < _LEAST_USED:
        return Absent("too little of the strip could be used")
    vertical = "y" in axis
    xyz, good = (np.swapaxes(a, 0, 1) if vertical else a for a in (pixels.xyz, pixels.good))
    if axis.startswith("-"):
        xyz, good = xyz[:, ::-1], good[:, ::-1]
    reach = max(2, int(_HEAD_SHARE * xyz.shape[1]))
    if good[:, :reach].sum() < 30 or good[:, -reach:].sum() < 30:
        return Absent("too little of the strip's ends could be used")
    head, tail = (xyz[:, part][good[:, part]].mean(axis=0, dtype=float) for part in (slice(None, reach), slice(-reach, None)))
    ends = xyz_to_lab(head), xyz_to_lab(tail)
    return Tilt(head=ends[0], tail=ends[1], colour_u=max(map(doubt, ends)), parted=_parted(head, tail, paper, path))


def effect(name: str, pixels: ZonePixels, wash: ZoneColour | None) -> Effect | Absent:
    """Contrast of the pattern beyond the plain wash's own unevenness, and its size."""
    refusal = _refusal(pixels)
    if refusal:
        return refusal
    light = lightness(pixels.xyz[..., 1])
    seen = np.where(pixels.good, light, light[pixels.good].mean())
    plain = 0.0 if wash is None else float(wash.sd[0])
    contrast = float(np.sqrt(max(float(seen.var()) - plain**2, 0.0)))
    # What is not quite known is how uneven the zone is; little is left of that where the plain wash is nearly as uneven.
    unsure = _CONTRAST_U * float(seen.var()) / max(contrast, _LEAST_CONTRAST)
    size = _size(seen, pixels.pixels_per_mm) if contrast > 1.0 else None
    return Effect(name=name, contrast=contrast, contrast_u=unsure, size_mm=None if size is None else Figure(size, _SIZE_U * size))


def _refusal(pixels: ZonePixels) -> Absent | None:
    if pixels.used_fraction < _LEAST_USED:
        return Absent("too little of the zone could be used")
    if min(pixels.good.shape) < _SMALLEST_MM * pixels.pixels_per_mm:
        return Absent(f"the zone is too small for this; {_SMALLEST_MM:.0f} mm each way would be enough")
    return None


def _smooth_depth(pixels: ZonePixels, paper: Floats) -> Floats:
    import cv2

    return np.asarray(cv2.GaussianBlur(tint_depth(pixels.xyz, paper), (0, 0), 0.2 * pixels.pixels_per_mm))


def _middle_piece(mask: Mask) -> Mask:
    """The connected piece of a mask that lies nearest its middle, of those larger than specks."""
    import cv2

    count, labels, stats, centres = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=4)
    large = [i for i in range(1, count) if stats[i, cv2.CC_STAT_AREA] > 0.01 * mask.size]
    if not large:
        return np.zeros_like(mask)
    middle = np.array(mask.shape[::-1]) / 2
    return np.asarray(labels == min(large, key=lambda i: float(np.linalg.norm(centres[i] - middle))))


def _centroid(mask: Mask) -> tuple[float, float] | None:
    """Row and column of a mask's middle; None where it is empty."""
    rows, columns = np.nonzero(mask)
    return (float(rows.mean()), float(columns.mean())) if len(rows) else None


def _distance(shape: tuple[int, ...], place: tuple[float, float], pixels_per_mm: float) -> Floats:
    """Distance (h, w) in mm from a place in pixels, row first."""
    y, x = np.mgrid[: shape[0], : shape[1]]
    return np.asarray(np.hypot(y - place[0], x - place[1]) / pixels_per_mm)


def _rings(pixels: ZonePixels, depth: Floats, place: tuple[float, float] | None) -> _Rings:
    row, column = place or ((depth.shape[0] - 1) / 2, (depth.shape[1] - 1) / 2)
    ring = (_distance(depth.shape, (row, column), pixels.pixels_per_mm) / _RING_MM).astype(int)
    whole = int(min(row, column, depth.shape[0] - 1 - row, depth.shape[1] - 1 - column) / (_RING_MM * pixels.pixels_per_mm))
    use = pixels.good & (ring < max(whole, 1))
    count = np.maximum(np.bincount(ring[use], minlength=max(whole, 1)), 1)

    def mean(values: Floats) -> Floats:
        return np.bincount(ring[use], values[use], minlength=max(whole, 1)) / count

    # A ring of which nothing can be used lies between its neighbours.
    seen = np.flatnonzero(np.bincount(ring[use], minlength=len(count)))
    radii = (np.arange(len(count)) + 0.5) * _RING_MM
    columns = [mean(depth), *(mean(pixels.xyz[..., c]) for c in range(3))]
    filled = np.stack([np.interp(radii, radii[seen], column[seen]) for column in columns], axis=1)
    return _Rings(radii, filled[:, 0], filled[:, 1:])


def _falls_to(rings: _Rings, depth: float) -> float | None:
    """The first radius at which the rings' depth falls to `depth`; None where they do not."""
    below = np.flatnonzero(rings.depth < depth)
    if len(below) == 0 or below[0] == 0:
        return None
    after, before = below[0], below[0] - 1
    part = (rings.depth[before] - depth) / (rings.depth[before] - rings.depth[after])
    return float(rings.radius[before] + part * _RING_MM)


def _colour_at(rings: _Rings, radius: float) -> Floats:
    return np.array([np.interp(radius, rings.radius, rings.xyz[:, c]) for c in range(3)])


def _parted(one: Floats, other: Floats, paper: Floats, path: DilutionPath | Absent) -> Figure | None:
    """ΔE in a*, b* between two colours (3,) beyond what the path gives at their depths."""
    if isinstance(path, Absent):
        return None
    order = np.argsort(path.depth)
    known = xyz_to_lab(np.vstack([paper, path.xyz[order]]))[:, 1:]
    depths = np.concatenate([[0.0], path.depth[order]])

    def off(xyz: Floats) -> Floats:
        depth = float(tint_depth(xyz, paper))
        return np.asarray(xyz_to_lab(xyz)[1:] - [np.interp(depth, depths, known[:, c]) for c in range(2)])

    unsure = max(float(np.linalg.norm(path.u_lab_at(float(tint_depth(xyz, paper)))[1:])) for xyz in (one, other))
    return Figure(float(np.linalg.norm(off(one) - off(other))), float(np.hypot(_NOT_SHARED * unsure, _LEAST_PARTED)))


def _size(light: Floats, pixels_per_mm: float) -> float | None:
    """Full width at half height in mm of the radial autocorrelation."""
    centred = light - light.mean()
    padded = [2 * n for n in centred.shape]
    power = np.abs(np.fft.rfft2(centred, padded)) ** 2
    correlation = np.fft.irfft2(power, padded)[: light.shape[0] // 2, : light.shape[1] // 2]
    # Fewer pixels overlap at larger shifts.
    correlation /= np.outer(light.shape[0] - np.arange(correlation.shape[0]), light.shape[1] - np.arange(correlation.shape[1]))
    y, x = np.mgrid[: correlation.shape[0], : correlation.shape[1]]
    ring = np.rint(np.hypot(x, y)).astype(int).ravel()
    profile = np.bincount(ring, correlation.ravel()) / np.bincount(ring) / correlation[0, 0]
    below = int(np.argmax(profile < 0.5))
    if below == 0:
        return None
    part = (profile[below - 1] - 0.5) / (profile[below - 1] - profile[below])
    return float(2 * (below - 1 + part) / pixels_per_mm)
