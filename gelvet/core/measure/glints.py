"""Glints: spots that shine under one lamp and not under another (measurement.md 6)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask
from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Rect

MINIMUM_PIXELS_PER_MM = 18.0
COUNTED_MM2 = 0.002
_BRIGHTER_SIGMAS, _CHANGES_BY, _DARK_SIGMAS = 6.0, 3.0, 3.0
_NEIGHBOURHOOD_MM = 1.0
# Shots may lie this far off each other, and flakes this large are still one glint.
_NEAR_MM = 0.1
_LOCAL_MM = 3.0
# A filter that weighs down texture rings: a spot under half as strong this near to another is its echo. Two true glints
# stand so in one pair of a hundred.
_ECHO_MM, _ECHO_SPREADS, _ECHO_SHARE = 0.25, 6.0, 0.5
_TAIL_FROM, _TAIL_MARGIN, _DUST_BASE, _DUST_CM2 = 4.0, 1.2, 1, 0.7


@dataclass(frozen=True, slots=True)
class ShotGlints:
    """The glints of one shot in one place: energies (n,) in mm², `places_mm` (n, 2) x and y on the card, mean colour (3,) of
    their light over the paper's, and the area share that they cover. `clipped` says that some were too bright to measure;
    `judged_share` what part of the place is not overexposed."""

    energy_mm2: Floats
    places_mm: Floats
    light: Floats | None
    coverage: float
    clipped: bool
    judged_share: float


@dataclass(frozen=True, slots=True)
class _View:
    """One shot of a place: paper-relative `light` (h, w, 3), its 1 mm `around` in Y (h, w), the `energy` (h, w) in square
    samples of a spot centred at each sample, and the robust SD of that (h, w)."""

    light: Floats
    around: Floats
    energy: Floats
    sigma: Floats
    spread: float
    good: Mask
    # Where colour is kept more coarsely than light a spot has its surroundings' colour.
    colour_is_fine: bool
    judged: Mask  # False where the image is overexposed over more than a glint's width
    dark: Floats  # (h, w) how dark a spot centred here is, in SDs


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
    matched = matched_to_spots(excess, spread, pixels_per_mm)
    return _View(
        relative, around, np.where(overexposed, 0, matched.energy * around), matched.sigma * around, spread, good, colour_is_fine,
        ~overexposed, np.where(overexposed, 0, matched.dark / matched.sigma),
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


@dataclass(frozen=True, slots=True)
class Matched:
    """Estimates (h, w) of the `energy` of a spot centred at each sample, their local SD `sigma`, and how `dark` spots are, with
    bright ones cut down first: a filter answers a bright spot with a dark rim."""

    energy: Floats
    sigma: Floats
    dark: Floats


def matched_to_spots(excess: Floats, spread: float, pixels_per_mm: float) -> Matched:
    """The best linear estimate of the energy of a spot of Gaussian `spread` samples at each sample of `excess` (h, w).

    The matched filter for noise of known spectrum (D. O. North, 1943; G. L. Turin, IRE Trans. Inf. Theory 6 (1960) 311-329):
    the place's own texture is the noise, so that grain and relief are weighed down where they are strong.
    """
    import cv2
    from scipy import fft

    rim = int(6 * spread) + 12
    # Transforms of some lengths take many times as long as those of the next.
    more = [fft.next_fast_len(side + 2 * rim, real=True) - side - rim for side in excess.shape]
    padded: Floats = np.asarray(cv2.copyMakeBorder(excess, rim, more[0], rim, more[1], cv2.BORDER_REFLECT), dtype=np.float32)
    limit = 4 * 1.4826 * float(np.median(np.abs(excess))) + 1e-6
    fy, fx = fft.fftfreq(padded.shape[0])[:, None], fft.rfftfreq(padded.shape[1])[None]
    spot = np.exp(-2 * (np.pi * spread) ** 2 * (fx**2 + fy**2))
    kernel = spot / _smooth_power(np.abs(fft.rfft2(np.clip(padded, -limit, limit))) ** 2)
    response = fft.irfft2(kernel * spot, padded.shape)[0, 0]

    def filtered(field: Floats) -> Floats:
        whole = fft.irfft2(fft.rfft2(field) * kernel, field.shape) / response
        return np.asarray(whole[rim : rim + excess.shape[0], rim : rim + excess.shape[1]], dtype=np.float32)

    energy = filtered(padded)
    return Matched(energy, _local_spread(energy, pixels_per_mm), -filtered(np.minimum(padded, limit)))


def _smooth_power(power: Floats) -> Floats:
    """A periodogram averaged over neighbouring frequencies."""
    import cv2

    smooth = np.asarray(cv2.GaussianBlur(power.astype(np.float32), (0, 0), 3.0, borderType=cv2.BORDER_REFLECT))
    return np.maximum(smooth, 1e-4 * float(smooth.mean()) + 1e-9)


def _local_spread(values: Floats, pixels_per_mm: float) -> Floats:
    """Robust SD (h, w) of values in squares of some millimetres."""
    import cv2

    whole = 1.4826 * float(np.median(np.abs(values))) + 1e-9
    size = tuple(max(1, round(side / (_LOCAL_MM * pixels_per_mm))) for side in values.shape[::-1])
    mean = cv2.resize(np.minimum(np.abs(values), 3 * whole), size, interpolation=cv2.INTER_AREA)
    # The mean size of a normal deviate is √(2/π) of its SD.
    local = np.asarray(cv2.resize(mean, values.shape[::-1], interpolation=cv2.INTER_LINEAR)) * np.sqrt(np.pi / 2)
    return np.asarray(np.maximum(local, 0.5 * whole))


def _changing(views: list[_View], index: int, rect: Rect, pixels_per_mm: float) -> ShotGlints:
    """What stands out in shot `index` and is at least three times as strong as in some other shot."""
    import cv2

    own = views[index]
    area = 1 / pixels_per_mm**2
    least = max(_BRIGHTER_SIGMAS, _TAIL_MARGIN * _tail(own, own.energy.size * area / 100))
    standing = np.asarray(own.energy > least * own.sigma, dtype=np.uint8)
    count, labels, _, _ = cv2.connectedComponentsWithStats(standing, connectivity=8)
    if count < 2:
        return ShotGlints(np.empty(0), np.empty((0, 2)), None, 0.0, clipped=False, judged_share=float(own.judged.mean()))
    reach = max(1, round(_NEAR_MM * pixels_per_mm))
    peaks = _peaks(own.energy, labels, count)
    strongest = own.energy[peaks[:, 0], peaks[:, 1]]
    darkest = np.full(count - 1, np.inf)
    for other in (v for i, v in enumerate(views) if i != index):
        near = np.asarray(cv2.dilate(other.energy, np.ones((2 * reach + 1, 2 * reach + 1), np.uint8)))
        there = np.maximum(near, _DARK_SIGMAS * other.sigma)[peaks[:, 0], peaks[:, 1]]
        darkest = np.minimum(darkest, there)
    spots = [_spot(own, row, column) for row, column in peaks]
    energy = np.array([s.energy for s in spots]) * area
    real = ~_echoes(peaks, strongest, max(_ECHO_MM * pixels_per_mm, _ECHO_SPREADS * own.spread))
    chosen = real & (strongest >= _CHANGES_BY * darkest) & (energy > COUNTED_MM2)
    shining = np.concatenate([[False], chosen])[labels]
    lights = [s.light for s, c in zip(spots, chosen, strict=True) if c and not s.clipped and own.colour_is_fine]
    clipped = any(s.clipped for s, c in zip(spots, chosen, strict=True) if c)
    light = np.mean(lights, axis=0) if lights else None
    places = (peaks[chosen][:, ::-1] + 0.5) / pixels_per_mm + np.array([rect.x, rect.y])
    return ShotGlints(energy[chosen], places, light, float(shining.mean()), clipped, float(own.judged.mean()))


def _echoes(peaks: Image, strength: Floats, reach: float) -> Mask:
    """Which spots (n,) are rings that the filter makes round a much stronger one, at `peaks` (n, 2) with their `strength` (n,)."""
    from scipy.spatial import cKDTree

    found = np.zeros(len(peaks), dtype=bool)
    for one, other in cKDTree(peaks).query_pairs(reach):
        weak, strong = (one, other) if strength[one] < strength[other] else (other, one)
        found[weak] |= strength[weak] < _ECHO_SHARE * strength[strong]
    return found


def _tail(view: _View, area_cm2: float) -> float:
    """How many SDs dark spots reach in this place, but for a few, which may be dust: no glint is dark, so that these tell how
    long the tails of the texture and of the file's own rounding are."""
    import cv2

    depth = view.dark
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


def _spot(view: _View, row: int, column: int) -> _Spot:
    """A spot's energy by least squares of the point spread and a level through the samples that are not clipped."""
    reach = int(np.ceil(3 * view.spread)) + 1
    rows = slice(max(0, row - reach), row + reach + 1)
    columns = slice(max(0, column - reach), column + reach + 1)
    light, good = view.light[rows, columns], view.good[rows, columns]
    y, x = np.mgrid[rows, columns][:, : light.shape[0], : light.shape[1]]
    weight = np.maximum(light[..., 1] - view.around[row, column], 0) * (np.hypot(y - row, x - column) <= 1.5 * view.spread + 0.5)
    total = float(weight.sum())
    cy, cx = ((weight * y).sum() / total, (weight * x).sum() / total) if total > 0 else (row, column)
    shape = np.exp(-((y - cy) ** 2 + (x - cx) ** 2) / (2 * view.spread**2)) / (2 * np.pi * view.spread**2)
    use = good.ravel()
    if use.sum() < 8:
        return _Spot(float(view.energy[row, column]), light.reshape(-1, 3).max(axis=0), clipped=True)
    design = np.column_stack([shape.ravel()[use], np.ones(int(use.sum()))])
    fitted = np.linalg.lstsq(design, light.reshape(-1, 3)[use].astype(float), rcond=None)[0][0]
    energy = float(fitted[1])
    near = good[np.hypot(y - row, x - column) <= view.spread + 0.5]
    if near.all():
        return _Spot(energy, fitted, clipped=False)
    # What is left of a clipped spot is its rim: never less than what is seen.
    return _Spot(max(energy, float(view.energy[row, column])), fitted, clipped=True)


def _peaks(values: Floats, labels: Image, count: int) -> Image:
    """Row and column (count - 1, 2) of the largest value within each label from 1 on."""
    inside = np.flatnonzero(labels)
    rising = inside[np.argsort(values.ravel()[inside], kind="stable")]
    last = np.zeros(count, dtype=np.intp)
    last[labels.ravel()[rising]] = rising  # of several places for one label the last, which is the largest, stays
    return np.stack(np.unravel_index(last[1:], values.shape), axis=1)
