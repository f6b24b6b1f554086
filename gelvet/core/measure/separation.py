"""Separation: pigments of one paint that part from each other, seen as colours off the dilution path (measurement.md 5)."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour_steps import CodedLight
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.blur import blur_gain
from gelvet.core.measure.coded_separation import undone
from gelvet.core.measure.components import components
from gelvet.core.measure.foreign_matter import rare_specks
from gelvet.core.measure.granulation import MINIMUM_PIXELS_PER_MM, MINIMUM_SIDE_MM, PaperTexture
from gelvet.core.measure.lightness_spectrum import (
    SEPARATION_BAND,
    band_pass,
    band_variance,
    low_pass,
    spectrum_of,
)
from gelvet.core.measure.limited_light import LightLimit, grid_of
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.values import Absent, ZonePixels, tint_depth

# Below this the colours are one pigment's own unevenness: two components are then an invention.
TWO_ABOVE, _TWO_SIGMAS = 0.8, 4.0
_FAINT = 0.3
# Where colour is stored coarsely and the file does not say how much so (k = 1).
_COARSE_U = 0.3
# How well the spectrum of lightness tells that of colour, as a share of what it adds.
_RAISED_U = 0.15
# How well it is known what averaging mixes, as a share of the index that it would make.
_MIXED_U = 0.3
_NOTHING = 1e-9
_GROUPS, _GROUP_LEAST = 150, 30
_MOST_PIXELS = 90_000
_STRETCH, _SATURATED, _HARDLY_ANY_LIGHT = 10, 2.0, 1.0
_TABLE = 16384


@dataclass(frozen=True, slots=True)
class PixelPath:
    """a*, b* (n, 2) and XYZ (n, 3) that the paint has at rising tint depth (n,), pixel by pixel, in light as fine as `limit`; `band`
    is what is judged by it."""

    depth: Floats
    ab: Floats
    xyz: Floats
    limit: LightLimit
    band: tuple[float, float] = SEPARATION_BAND

    @property
    def saturates_at(self) -> float:
        """Tint depth, where hardly any light is left in one channel, from which on to the end another gains more than twice what
        that one does: colours there hang on what hardly changes. Infinite where none does."""
        if len(self.depth) < 3 * _STRETCH:
            return float("inf")
        # In stretches, over which single groups' own chance evens out.
        density = np.stack([part.mean(axis=0) for part in np.array_split(-np.log10(self.xyz), len(self.depth) // _STRETCH)])
        depth = np.array([part.mean() for part in np.array_split(self.depth, len(self.depth) // _STRETCH)])
        here = np.diff(density, axis=0).max(axis=1) / np.maximum(np.diff(depth), 1e-6)
        darkest = np.maximum.accumulate(density[::-1])[::-1]
        from_here = (darkest[1:] - density[:-1]).max(axis=1) / np.maximum(depth[-1] - depth[:-1], 1e-6)
        over = np.flatnonzero((here > _SATURATED) & (from_here > _SATURATED) & (depth[:-1] > _HARDLY_ANY_LIGHT))
        return float(depth[max(over[0] - 1, 0)]) if len(over) else float("inf")

    def at(self, depth: Floats) -> Floats:
        """a*, b* (..., 2) at `depth` (...); paler than seen it goes straight to the paper, deeper it stays."""
        return np.stack([np.interp(depth, self.depth, self.ab[:, c]) for c in range(2)], axis=-1)

    def all_over(self, depth: Floats) -> Floats:
        """The same (h, w, 2) float32 for a zone's pixels, by a table of so many depths that it errs by a hundredth of a ΔE: quicker."""
        table = self.at(np.linspace(0, self.depth[-1], _TABLE)).astype(np.float32)
        place = depth * np.float32((_TABLE - 1) / self.depth[-1]) + np.float32(0.5)
        return np.asarray(table.take(np.clip(place, 0, _TABLE - 1).astype(np.int32), axis=0))


def pixel_path(
    zones: Sequence[ZonePixels], paper: Floats, limit: LightLimit, band: tuple[float, float] = SEPARATION_BAND
) -> PixelPath | None:
    """From single pixels of all zones of a paint, no aperture; None where there are too few."""
    limited = [limit.of(z) for z in zones]
    step = max(1, sum(z.good.size for z in limited) // _MOST_PIXELS)
    pixels = np.concatenate([z.xyz.reshape(-1, 3)[::step][z.good.ravel()[::step]] for z in limited]) if limited else np.empty((0, 3))
    if len(pixels) < 20 * _GROUP_LEAST:
        return None
    depth, ab = tint_depth(pixels, paper), xyz_to_lab(pixels)[:, 1:]
    places, colours, lights = [0.0], [xyz_to_lab(paper)[1:]], [paper]
    # Groups of equal number: a wash is a hundredth of the gradient's depths, and steps of depth would give it two or three.
    for group in np.array_split(np.argsort(depth), min(_GROUPS, len(pixels) // _GROUP_LEAST)):
        middle = float(depth[group].mean())
        if middle > places[-1] + 1e-4:
            places.append(middle)
            colours.append(ab[group].mean(axis=0))
            lights.append(pixels[group].mean(axis=0))
    return PixelPath(np.array(places), np.array(colours), np.array(lights), limit, band) if len(places) > 6 else None


def separation(
    zone: ZonePixels,
    path: PixelPath | None,
    paper: Floats,
    texture: PaperTexture | None,
    blur_mm: float | None,
    noise: Floats | None,
    coded: CodedLight | None = None,
    mixed: Callable[[ZonePixels], float] | None = None,
) -> Separation | Absent:
    """`zone` at full resolution, `texture` the bare paper's, `noise` (3, 3) the covariance of XYZ of single pixels; `coded` how the
    file stores the zone's colours, where it does so in steps; `mixed` tells how much of a zone's variance
    averaging makes.

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

    zone = replace(zone, good=zone.good & (tint_depth(zone.xyz, paper) < path.saturates_at))
    if zone.used_fraction < 0.5:
        return Absent("most of the wash is so deep that one channel has hardly any light left to tell its depth by")

    shown = path.limit.of(zone)
    off = off_path(shown, path, paper)
    foreign = rare_specks(np.linalg.norm(off, axis=-1), shown.pixels_per_mm)
    if foreign.any():
        zone = replace(zone, good=zone.good & ~_as_fine(foreign, zone.good.shape))
        off = off_path(path.limit.of(zone), path, paper)
    frequency = grid_of(shown)
    of_limited = np.asarray(((1 - low_pass(frequency, path.band[0])) * path.limit.rest_of(frequency, path.band[1])) ** 2)

    def variance_off(of: ZonePixels) -> float:
        """Of the zone, or of other colours on its own pixels."""
        return field_variance(off_path(path.limit.of(of), path, paper), of_limited) / of.used_fraction

    seen = field_variance(off, of_limited) / zone.used_fraction
    middle = np.median(zone.xyz[zone.good], axis=0).astype(float)
    slope = _slope_off(middle, path, paper)
    response = (band_pass(grid_of(zone), path.band) * blur_gain(grid_of(zone), blur_mm)) ** 2
    from_relief = float(((slope @ middle * _shade(texture, path.band)) ** 2).sum())
    from_noise = _variance_off(slope, noise * float(response.mean()))
    unsure, share = 0.0, None
    if coded is not None:  # the replay holds the noise
        before = undone(seen, zone, path.xyz, coded, variance_off)
        variance, from_noise = max(before.variance - from_relief, 0.0), 0.0
        unsure = before.u / (2 * max(float(np.sqrt(variance)), _FAINT))
    else:
        variance = max(seen - from_noise - from_relief, 0.0)
        if mixed is not None:
            share = min(mixed(zone) / max(variance, _NOTHING), 1.0)
            unsure = _MIXED_U * float(np.sqrt(share * variance))
            variance *= 1 - share
    if path.band != SEPARATION_BAND:
        whole = _whole_of(path.band, zone, blur_mm)
        variance *= whole
        unsure = float(np.linalg.norm([unsure, _COARSE_U, _RAISED_U * (whole - 1) * np.sqrt(variance)]))
    index = float(np.sqrt(variance))
    u = float(np.hypot(_uncertainty(zone, index, from_noise, from_relief), unsure))
    found = components(zone, paper) if index > max(TWO_ABOVE, _TWO_SIGMAS * u) else ()
    return Separation(index=index, components=found, u=u, mixed=share)


def off_path(limited: ZonePixels, path: PixelPath, paper: Floats) -> Floats:
    """How far each pixel's a*, b* (h, w, 2) of a zone in the path's limit lies off the path at its own depth; 0 where it is masked."""
    off = xyz_to_lab(limited.xyz)[..., 1:] - path.all_over(tint_depth(limited.xyz, paper))
    off *= limited.good[..., None]
    return np.asarray(off)


def _as_fine(mask: Mask, shape: tuple[int, ...]) -> Mask:
    """A coarser zone's mask on the zone's own pixels (h, w)."""
    import cv2

    return np.asarray(cv2.resize(mask.astype(np.uint8), shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _slope_off(xyz: Floats, path: PixelPath, paper: Floats) -> Floats:
    """Change (2, 3) of the distance off the path for each unit of X, Y, Z at `xyz` (3,)."""

    def off(value: Floats) -> Floats:
        return np.asarray(xyz_to_lab(value)[1:] - path.at(np.asarray(tint_depth(value, paper))))

    steps = 0.01 * xyz
    return np.stack([(off(xyz + s * e) - off(xyz - s * e)) / (2 * s) for s, e in zip(steps, np.eye(3), strict=True)], axis=1)


def _variance_off(slope: Floats, covariance: Floats) -> float:
    """Variance off the path, a* and b* together, that a covariance (3, 3) in XYZ makes."""
    return float(np.trace(slope @ covariance @ slope.T))


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


def _uncertainty(zone: ZonePixels, index: float, from_noise: float, from_relief: float) -> float:
    area = zone.good.size / zone.pixels_per_mm**2
    grains = max(area / 0.6, 4)
    sampling = index / np.sqrt(2 * grains)
    unsure = 0.2 * (from_noise + from_relief) / max(2 * index, 0.2)
    return float(np.sqrt(sampling**2 + unsure**2 + 0.04**2))
