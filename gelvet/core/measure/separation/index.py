"""Separation: pigments of one paint that part from each other, seen as colours off the dilution path (measurement.md 5)."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.detail.coded_light import CodedLight
from gelvet.core.measure.grain.blur import cosine_frequency
from gelvet.core.measure.grain.granulation import MINIMUM_PIXELS_PER_MM, MINIMUM_SIDE_MM, PaperTexture
from gelvet.core.measure.grain.lightness_spectrum import (
    SEPARATION_BAND,
    band_variance,
    low_pass,
    spectrum_of,
)
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.separation.chance_colours import ChanceColours
from gelvet.core.measure.separation.components import components
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.separation.pixel_path import PixelPath, off_path
from gelvet.core.measure.separation.stored_colours import undone
from gelvet.core.measure.uncertainty import rise
from gelvet.core.measure.values import Absent, ZonePixels, tint_depth
from gelvet.core.measure.zone.foreign_matter import rare_specks

# Below this the colours are one pigment's own unevenness: two components are then an invention.
TWO_ABOVE, _TWO_SIGMAS = 0.8, 4.0
# Where colour is stored coarsely and the file does not say how much so (k = 1).
_COARSE_U = 0.3
# How well the spectrum of lightness tells that of colour, as a share of what it adds.
_RAISED_U = 0.15
# How well it is known what averaging mixes, as a share of the index that it would make.
_MIXED_U = 0.3
# How well it is foretold what relief and noise do, as a share of the variance.
_CHANCE_U = 0.2
# What is foretold of one pigment, as a share of what is seen: from the first on it is one, up to the second pigments part.
_ONE, _PARTED = 0.85, 0.6
_NOTHING = 1e-9
_AS_ON_PAPER = ChanceColours()


def separation(
    zone: ZonePixels,
    path: PixelPath | None,
    paper: Floats,
    texture: PaperTexture | None,
    blur_mm: float | None,
    noise: Floats | None,
    coded: CodedLight | None = None,
    mixed: Callable[[ZonePixels], float] | None = None,
    chance: ChanceColours = _AS_ON_PAPER,
) -> Separation | Absent:
    """`zone` at full resolution, `texture` the bare paper's, `noise` (3, 3) the covariance of XYZ of single pixels; `coded` how the
    file stores the zone's colours, where it does so in steps; `mixed` tells how much of a zone's variance averaging makes, `chance`
    what relief and noise do.

    Where the path's band is only a part of the whole one, the index is what that part would be of the whole if colours parted as
    lightness does: pigments that part are what the grain is made of.
    """
    if blur_mm is None or texture is None or noise is None:
        return Absent("the capture's own blur and noise are not known, which only a printed card shows")
    if zone.pixels_per_mm < MINIMUM_PIXELS_PER_MM:
        return Absent(f"the resolution of {zone.pixels_per_mm * 25.4:.0f} dpi is too low for separation; 300 dpi would be enough")
    if min(zone.good.shape) < MINIMUM_SIDE_MM * zone.pixels_per_mm:
        return Absent(f"the zone is too small for separation; {MINIMUM_SIDE_MM:.0f} mm each way would be enough")
    if zone.used_fraction < 0.5 or path is None:
        return Absent("too little of the paint could be used")

    zone = _of_quick_sides(zone)
    depth = tint_depth(zone.xyz, paper)
    zone = replace(zone, good=zone.good & (depth < path.saturates_at))
    sure = replace(zone, good=zone.good & (depth < path.drowns_at(noise)))
    if sure.used_fraction < 0.5:
        return Absent("most of the wash is so deep that one channel has hardly any light left to tell its depth by")

    by = (path, paper, texture, blur_mm, noise, coded, mixed, chance)
    found = _judged(sure, *by)
    # Pixels of doubtful depth do not show that pigments part; where others do, they part there too.
    if _parts(found) and sure.used_fraction < zone.used_fraction:
        return _judged(zone, *by)
    return found


def _parts(found: Separation) -> bool:
    return found.index > max(TWO_ABOVE, _TWO_SIGMAS * found.u)


def _judged(
    zone: ZonePixels,
    path: PixelPath,
    paper: Floats,
    texture: PaperTexture,
    blur_mm: float,
    noise: Floats,
    coded: CodedLight | None,
    mixed: Callable[[ZonePixels], float] | None,
    chance: ChanceColours,
) -> Separation:
    """Of the zone's good pixels."""
    shown = path.limit.of(zone)
    off = off_path(shown, path, paper)
    foreign = rare_specks(np.linalg.norm(off, axis=-1), shown.pixels_per_mm)
    if foreign.any():
        zone = replace(zone, good=zone.good & ~_as_fine(foreign, zone.good.shape))
        off = off_path(path.limit.of(zone), path, paper)

    def variance(field: Floats, used: float = zone.used_fraction) -> float:
        return field_variance(field, _in_band(field.shape[:2], shown.pixels_per_mm, path.band, path.limit)) / used

    def variance_off(of: ZonePixels) -> float:
        """Of a part of the zone, or of other colours on its pixels."""
        return variance(off_path(path.limit.of(of), path, paper), of.used_fraction)

    seen = variance(off)
    # What the file's steps add is no pigment's and no relief's.
    before = None if coded is None else undone(seen, zone, path.xyz, coded, variance_off)
    stepless = seen if before is None else before.variance
    by_chance = (zone, path, paper, _shade(texture, path.band), noise if coded is None else None)
    of_one, added = chance.of_one_pigment(*by_chance), lambda: chance.added(*by_chance)
    from_chance, parted = _by_chance(seen, stepless, of_one, added, variance)
    left = max(stepless - from_chance, 0.0)
    unsure, share = 0.0, None
    if before is not None:
        unsure = rise(float(np.sqrt(left)), before.u)
    elif mixed is not None:
        share = min(mixed(zone) / max(left, _NOTHING), 1.0)
        unsure = _MIXED_U * float(np.sqrt(share * left))
        left *= 1 - share
    if path.band != SEPARATION_BAND:
        whole = _whole_of(path.band, zone, blur_mm)
        left *= whole
        unsure = float(np.linalg.norm([unsure, _COARSE_U, _RAISED_U * (whole - 1) * np.sqrt(left)]))
    index = float(np.sqrt(left))
    u = float(np.hypot(_uncertainty(zone, index, from_chance), unsure))
    found = Separation(index=index, components=(), u=u, mixed=share)
    return replace(found, components=components(zone, paper)) if parted == 1 and _parts(found) else found


def _of_quick_sides(zone: ZonePixels) -> ZonePixels:
    """Less the few rows and columns that make cosine transforms take up to five times as long."""
    from scipy.fft import prev_fast_len

    height, width = (prev_fast_len(side) for side in zone.good.shape)
    return replace(zone, xyz=np.ascontiguousarray(zone.xyz[:height, :width]), good=zone.good[:height, :width])


@lru_cache(maxsize=8)
def _in_band(shape: tuple[int, ...], pixels_per_mm: float, band: tuple[float, float], limit: LightLimit) -> Floats:
    """Squared response (h, w) of a band to cosines of limited light."""
    frequency = cosine_frequency(shape, pixels_per_mm)
    return np.asarray(((1 - low_pass(frequency, band[0])) * limit.rest_of(frequency, band[1])) ** 2)


def _by_chance(
    seen: float, stepless: float, one: Floats, added: Callable[[], tuple[Floats, Floats]], variance: Callable[[Floats], float]
) -> tuple[float, float]:
    """How much of the variance that is `seen`, of which `stepless` is not the file's steps, relief and noise make, and how surely
    pigments part, 0 to 1: what they make of `one` pigment's colours off the path (h, w, 2) where that is about all that there is, and
    where it is not, as the wash itself shows when they are `added` once and twice more, drawn back by a parabola to where there are
    none."""
    of_one = variance(one)
    parted = float(np.clip((_ONE - of_one / max(stepless, _NOTHING)) / (_ONE - _PARTED), 0, 1))
    if parted == 0:
        return of_one, parted
    once, twice = (variance(field) for field in added())
    drawn_back = float(np.clip(3 * once - twice - 2 * seen, 0, stepless))
    return (1 - parted) * of_one + parted * drawn_back, parted


def _as_fine(mask: Mask, shape: tuple[int, ...]) -> Mask:
    """A coarser zone's mask on the zone's own pixels (h, w)."""
    import cv2

    return np.asarray(cv2.resize(mask.astype(np.uint8), shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _shade(texture: PaperTexture, band: tuple[float, float]) -> float:
    """SD of light, as a share, that the paper's relief makes: it shades all channels alike, and L* + 16 goes with their cube root."""
    return float(3 * np.sqrt(max(texture.variance[band], 0.0)) / (texture.mean_l + 16))


def _whole_of(band: tuple[float, float], zone: ZonePixels, blur_mm: float) -> float:
    """How many times the zone's variance of L* in `band` it is in the whole band."""
    spectrum = spectrum_of(zone, blur_mm)
    part, whole = (band_variance(spectrum, b, 0.0) for b in (band, SEPARATION_BAND))
    return max(whole / part, 1.0) if part > 0 else 1.0


def field_variance(field: Floats, response: Floats) -> float:
    """Variance (a* and b* together) of a field (h, w, 2) in the band, blur undone."""
    from scipy.fft import dctn

    total = 0.0
    for channel in range(2):
        values = field[..., channel] - field[..., channel].mean()
        total += float(np.vdot(dctn(values, norm="ortho") ** 2, response)) / values.size
    return total


def _uncertainty(zone: ZonePixels, index: float, chance: float) -> float:
    area = zone.good.size / zone.pixels_per_mm**2
    grains = max(area / 0.6, 4)
    sampling = index / np.sqrt(2 * grains)
    return float(np.sqrt(sampling**2 + rise(index, _CHANCE_U * chance) ** 2 + 0.04**2))
