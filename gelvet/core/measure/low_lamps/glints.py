"""Glints: spots that shine under one lamp and not under another (measurement.md 6)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Rect
from gelvet.core.measure.low_lamps.spot_filter import matched_to_spots

MINIMUM_PIXELS_PER_MM = 18.0
COUNTED_MM2 = 0.002
_BRIGHTER_SIGMAS, _CHANGES_BY, _DARK_SIGMAS = 6.0, 3.0, 3.0
_NEIGHBOURHOOD_MM = 1.0
# Shots may lie this far off each other, and flakes this large are still one glint.
_NEAR_MM = 0.1
# A filter that weighs down texture rings, and so does a JPEG within its blocks of 8 by 8 pixels: a spot this much weaker than
# another and this near to it is its echo. Two true glints stand so in one pair of a hundred.
_ECHO_MM, _ECHO_SPREADS, _ECHO_SHARE = 0.25, 6.0, 0.5
_BLOCK_MM, _BLOCK_SHARE = 0.4, 0.25
# SD in mm across flakes of 0 to 0.17 mm, each as wide as the square of its size.
_FLAKES_MM = (0.0, 0.0125, 0.025, 0.0375, 0.05)
_USUAL_FLAKES = 3
# So many spots tell how wide flakes are; one of its own width leaves over less than this share (a logarithm).
_FEWEST_ALIKE, _PLAINLY = 3, 0.3
# Dark spots near a bright one of so many SDs, unless they are nearly as strong, are its rings.
_RING_FROM, _RING_SHARE = 12.0, 0.8
# A slope of the paper that faces one lamp turns away from those across: it loses there this share or more of what it gains here, where
# a glint is merely dark. So much must stand across, one lamp straight across being 1.
_TURNS_AWAY, _ACROSS = 0.4, 0.45
_TAIL_FROM, _TAIL_MARGIN, _DUST_BASE, _DUST_CM2 = 4.0, 1.3, 1, 0.7


@dataclass(frozen=True, slots=True)
class ShotGlints:
    """The glints of one shot in one place: energies (n,) in mm², `places_mm` (n, 2) x and y on the card, mean colour (3,) of
    their light over the paper's, and the area share that they cover. `clipped` says that some were too bright to measure;
    `judged_share` what part of the place is not overexposed; `faintest_mm2` is the energy that stands out in its middle."""

    energy_mm2: Floats
    places_mm: Floats
    light: Floats | None
    coverage: float
    clipped: bool
    judged_share: float
    faintest_mm2: float


@dataclass(frozen=True, slots=True)
class _View:
    """One shot of a place: paper-relative `light` (h, w, 3), its 1 mm `around` in Y (h, w), the `energy` (h, w) in square
    samples of a spot centred at each sample, and the robust SD of that (h, w)."""

    light: Floats
    around: Floats
    energy: Floats
    sigma: Floats
    spread: float
    pixels_per_mm: float
    good: Mask
    # Where colour is kept more coarsely than light a spot has its surroundings' colour.
    colour_is_fine: bool
    judged: Mask  # False where the image is overexposed over more than a glint's width
    dark: Floats  # (h, w) how dark a spot centred here is, in SDs
    azimuth_deg: float | None  # of its low lamp


def glints_in(shots: Sequence[LitShot], rect: Rect, pixels_per_mm: float) -> list[ShotGlints]:
    """Of each shot of the place `rect`, at that sampling."""
    views = [_view(shot, rect, pixels_per_mm) for shot in shots]
    return [_changing(views, index, rect, pixels_per_mm) for index in range(len(views))]


def _view(shot: LitShot, rect: Rect, pixels_per_mm: float) -> _View:
    relative, good = shot.relative(rect, pixels_per_mm)
    luminance = np.ascontiguousarray(relative[..., 1])
    around = np.maximum(neighbourhood(luminance, pixels_per_mm), 1e-3)
    native = shot.capture.calibration.geometry.pixels_per_mm
    spread = max((shot.blur_px or 0.6) * pixels_per_mm / native, 0.5)
    overexposed = _wide(~good, 6 * spread)
    # Relief shades in proportion to the light that there is, so that a gradient is even in these units.
    excess = np.where(overexposed, 0, luminance / around - 1).astype(np.float32)
    colour_is_fine = not shot.capture.picture.coarse_colour
    spreads = [float(np.hypot(spread, flake * pixels_per_mm)) for flake in _FLAKES_MM[:_USUAL_FLAKES]]
    matched = matched_to_spots(excess, spreads, pixels_per_mm)
    return _View(
        relative, around, np.where(overexposed, 0, matched.energy * around), matched.sigma * around, spread, pixels_per_mm, good,
        colour_is_fine, ~overexposed, np.where(overexposed, 0, matched.dark / matched.sigma), shot.azimuth_deg if shot.raking else None,
    )  # fmt: skip


def _wide(mask: Mask, across: float) -> Mask:
    """What of `mask` is wider than a glint may be, with its rim."""
    if not mask.any():
        return mask
    import cv2

    side = int(across) | 1
    wide = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_OPEN, np.ones((side, side), np.uint8))
    return np.asarray(cv2.dilate(wide, np.ones((2 * side + 1, 2 * side + 1), np.uint8)) > 0)


def neighbourhood(luminance: Floats, pixels_per_mm: float) -> Floats:
    """Median (h, w) of about 1 mm around each sample."""
    import cv2

    height, width = luminance.shape
    across = 5
    step = max(1, round(_NEIGHBOURHOOD_MM * pixels_per_mm / across))
    size = (max(across, -(-width // step)), max(across, -(-height // step)))
    coarse = cv2.medianBlur(np.asarray(cv2.resize(luminance, size, interpolation=cv2.INTER_AREA)), across)
    return np.asarray(cv2.resize(coarse, (width, height), interpolation=cv2.INTER_LINEAR))


def _changing(views: list[_View], index: int, rect: Rect, pixels_per_mm: float) -> ShotGlints:
    """What stands out in shot `index` and is at least three times as strong as in some other shot."""
    import cv2

    own = views[index]
    area = 1 / pixels_per_mm**2
    least = max(_BRIGHTER_SIGMAS, _TAIL_MARGIN * _tail(own, own.energy.size * area / 100))
    standing = np.asarray(own.energy > least * own.sigma, dtype=np.uint8)
    count, labels, _, _ = cv2.connectedComponentsWithStats(standing, connectivity=8)
    judged, faintest = float(own.judged.mean()), float(least * np.median(own.sigma)) * area
    if count < 2:
        return ShotGlints(np.empty(0), np.empty((0, 2)), None, 0.0, clipped=False, judged_share=judged, faintest_mm2=faintest)
    reach = max(1, round(_NEAR_MM * pixels_per_mm))
    peaks = _peaks(own.energy, labels, count)
    strongest = own.energy[peaks[:, 0], peaks[:, 1]]
    darkest = np.full(count - 1, np.inf)
    for other in (v for i, v in enumerate(views) if i != index):
        near = np.asarray(cv2.dilate(other.energy, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)))
        there = np.maximum(near, _DARK_SIGMAS * other.sigma)[peaks[:, 0], peaks[:, 1]]
        darkest = np.minimum(darkest, there)
    real = ~_echoes(peaks, strongest, own.spread, pixels_per_mm) & ~_slopes(own, views, peaks, strongest)
    changing = np.flatnonzero(real & (strongest >= _CHANGES_BY * darkest))
    spots = _spots(own, peaks[changing])
    energy = np.array([s.energy for s in spots]) * area
    counted = energy > COUNTED_MM2
    chosen = np.zeros(count - 1, dtype=bool)
    chosen[changing[counted]] = True
    spots = [s for s, c in zip(spots, counted, strict=True) if c]
    shining = np.concatenate([[False], chosen])[labels]
    lights = [s.light for s in spots if not s.clipped and own.colour_is_fine]
    clipped = any(s.clipped for s in spots)
    light = np.mean(lights, axis=0) if lights else None
    places = (peaks[chosen][:, ::-1] + 0.5) / pixels_per_mm + np.array([rect.x, rect.y])
    return ShotGlints(energy[counted], places, light, float(shining.mean()), clipped, judged, faintest)


def _echoes(peaks: Image, strength: Floats, spread: float, pixels_per_mm: float) -> Mask:
    """Which spots (n,) at `peaks` (n, 2) with their `strength` (n,) are rings that the filter makes round a much stronger one, or
    that a file's blocks of 8 by 8 pixels make somewhat farther off."""
    from scipy.spatial import cKDTree

    found = np.zeros(len(peaks), dtype=bool)
    for reach_mm, share in ((_ECHO_MM, _ECHO_SHARE), (_BLOCK_MM, _BLOCK_SHARE)):
        for one, other in cKDTree(peaks).query_pairs(max(reach_mm * pixels_per_mm, _ECHO_SPREADS * spread)):
            weak, strong = (one, other) if strength[one] < strength[other] else (other, one)
            found[weak] |= strength[weak] < share * strength[strong]
    return found


def _slopes(own: _View, views: Sequence[_View], peaks: Image, strength: Floats) -> Mask:
    """Which spots (n,) at `peaks` (n, 2) with their `strength` (n,) are slopes of the paper's relief that face this lamp: their light
    goes with the cosine of the angle between them and a lamp, and falls below their surroundings' where lamps stand across."""
    across, loss = 0.0, np.zeros(len(peaks))
    for other in views:
        if own.azimuth_deg is None or other.azimuth_deg is None:
            continue
        away = max(-float(np.cos(np.radians(other.azimuth_deg - own.azimuth_deg))), 0.0)
        across += away**2
        loss += away * other.energy[peaks[:, 0], peaks[:, 1]]
    return np.asarray(loss < -_TURNS_AWAY * across * strength) if across >= _ACROSS else np.zeros(len(peaks), dtype=bool)


def _tail(view: _View, area_cm2: float) -> float:
    """How many SDs dark spots reach in this place, but for a few, which may be dust: no glint is dark, so that these tell how
    long the tails of the texture and of the file's own rounding are. The rings that filter and file make round a glint do not."""
    import cv2

    reach = round(max(_ECHO_MM * view.pixels_per_mm, _ECHO_SPREADS * view.spread))
    brightest = cv2.dilate(view.energy / view.sigma, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1)))
    ring = (np.asarray(brightest) > _RING_FROM) & (view.dark < _RING_SHARE * np.asarray(brightest))
    depth = np.where(ring, 0, view.dark)
    count, labels, _, _ = cv2.connectedComponentsWithStats(np.asarray(depth > _TAIL_FROM, dtype=np.uint8), connectivity=8)
    spared = int(_DUST_BASE + _DUST_CM2 * area_cm2)
    if count - 1 <= spared:
        return 0.0
    peaks = _peaks(depth, labels, count)
    return float(np.sort(depth[peaks[:, 0], peaks[:, 1]])[-1 - spared])


@dataclass(frozen=True, slots=True)
class _Spot:
    energy: float  # square samples of paper's light
    light: Floats  # (3,)
    clipped: bool


@dataclass(frozen=True, slots=True)
class _Fits:
    """Gaussians of several widths fitted to one spot: the `light` (n, 3) of each, and the `misfit` (n,), the logarithm of what each
    leaves over in Y; `least` is the energy that is seen in any case."""

    light: Floats
    misfit: Floats
    least: float
    clipped: bool


def _spots(view: _View, peaks: Image) -> list[_Spot]:
    """Spots as wide as the point spread and their flake: of the flakes of one paint most are alike, so that a spot counts as
    wide as all together suggest unless it plainly is not."""
    fits = [_fits(view, row, column) for row, column in peaks]
    told = [f.misfit for f in fits if not f.clipped]
    usual = int(np.argmin(np.mean(told, axis=0))) if len(told) >= _FEWEST_ALIKE else 1
    spots = []
    for f in fits:
        own = int(np.argmin(f.misfit))
        width = own if not f.clipped and f.misfit[usual] - f.misfit[own] > _PLAINLY else usual
        energy = float(f.light[width, 1])
        spots.append(_Spot(max(energy, f.least), f.light[width], clipped=f.clipped))
    return spots


def _fits(view: _View, row: int, column: int) -> _Fits:
    """A spot's light by least squares of a Gaussian and a level through the samples that are not clipped."""
    spreads = [float(np.hypot(view.spread, flake * view.pixels_per_mm)) for flake in _FLAKES_MM]
    reach = int(np.ceil(2.5 * spreads[-1])) + 1
    rows = slice(max(0, row - reach), row + reach + 1)
    columns = slice(max(0, column - reach), column + reach + 1)
    light, good = view.light[rows, columns], view.good[rows, columns]
    y, x = np.mgrid[rows, columns][:, : light.shape[0], : light.shape[1]]
    weight = np.maximum(light[..., 1] - view.around[row, column], 0) * (np.hypot(y - row, x - column) <= 1.5 * spreads[1] + 0.5)
    total = float(weight.sum())
    cy, cx = ((weight * y).sum() / total, (weight * x).sum() / total) if total > 0 else (row, column)
    use = good.ravel()
    if use.sum() < 8:
        nothing = np.zeros(len(spreads))
        return _Fits(np.zeros((len(spreads), 3)), nothing, float(view.energy[row, column]), clipped=True)
    apart = ((y - cy) ** 2 + (x - cx) ** 2).ravel()[use]
    seen = light.reshape(-1, 3)[use].astype(float)
    lights, misfits = [], []
    for spread in spreads:
        design = np.column_stack([np.exp(-apart / (2 * spread**2)) / (2 * np.pi * spread**2), np.ones(len(apart))])
        solved = np.linalg.lstsq(design, seen, rcond=None)[0]
        lights.append(solved[0])
        misfits.append(np.log(float(((seen - design @ solved)[:, 1] ** 2).sum()) + 1e-12))
    clipped = not good[np.hypot(y - row, x - column) <= view.spread + 0.5].all()
    # What is left of a clipped spot is its rim: never less than what is seen.
    return _Fits(np.array(lights), np.array(misfits), float(view.energy[row, column]) if clipped else 0.0, clipped)


def _peaks(values: Floats, labels: Image, count: int) -> Image:
    """Row and column (count - 1, 2) of the largest value within each label from 1 on."""
    inside = np.flatnonzero(labels)
    rising = inside[np.argsort(values.ravel()[inside], kind="stable")]
    last = np.zeros(count, dtype=np.intp)
    last[labels.ravel()[rising]] = rising  # of several places for one label the last, which is the largest, stays
    return np.stack(np.unravel_index(last[1:], values.shape), axis=1)
