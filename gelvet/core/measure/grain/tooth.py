"""Does the pigment sit in the paper's hollows? Relief from low lamps against tint depth (measurement.md 4)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Rect
from gelvet.core.measure.grain.blur import blur_gain, cosine_frequency
from gelvet.core.measure.grain.granulation import MINIMUM_SIDE_MM, PaperTexture
from gelvet.core.measure.grain.lightness_spectrum import GRAIN_BAND, band_pass
from gelvet.core.measure.quantities.paper import PaperShading
from gelvet.core.measure.quantities.texture import Tooth
from gelvet.core.measure.values import Absent, Figure, ZonePixels, tint_depth

MINIMUM_PIXELS_PER_MM = 7.5
# Lamps must look at the slopes from ways that differ by this much, for both directions of slope to be seen.
_LEAST_CONDITION = 0.15
_ELEVATION_DEG = 20.0
_LEAST_GOOD = 0.5
_EDGE_MM = 0.6
# What lies on so small an area goes together.
MM2_A_SPOT = 0.3


@dataclass(frozen=True, slots=True)
class Hollows:
    """Depth (h, w) of the paper's hollows in the grain's band, sampled at `pixels_per_mm`, and the flat shot's blur."""

    depth: Floats
    pixels_per_mm: float
    blur_mm: float

    def follow(self, amount: Floats) -> Figure | None:
        """Correlation of an amount of paint (h, w), sampled at will over the same place, with the hollows in 0.4 to 3
        cycles/mm, as sure as so many spots make it; None where neither varies."""
        import cv2

        size = self.depth.shape[::-1]
        same: Floats = np.asarray(cv2.resize(amount, size, interpolation=cv2.INTER_AREA), dtype=np.float32)
        inside = slice(int(0.5 * self.pixels_per_mm), -int(0.5 * self.pixels_per_mm) or None)
        one = self.depth[inside, inside].ravel()
        other = banded(same, self.pixels_per_mm, self.blur_mm)[inside, inside].ravel()
        if one.std() < 1e-9 or other.std() < 1e-9:
            return None
        r = float(np.corrcoef(one, other)[0, 1])
        spots = max(self.depth.size / self.pixels_per_mm**2 / MM2_A_SPOT, 8.0)
        return Figure(r, float((1 - r * r) / np.sqrt(spots) + 0.02))


def hollows_of(lights: Sequence[LitShot], rect: Rect) -> Hollows | Absent:
    """The paper's hollows under a place, from what low lamps of known sides shade."""
    lamps = [light for light in lights if light.raking and light.azimuth_deg is not None]
    if len(lamps) < 2:
        return Absent("fewer than two shots with a low lamp from known sides")
    scale = min(light.capture.calibration.geometry.pixels_per_mm for light in (lights[0], *lamps))
    if scale < MINIMUM_PIXELS_PER_MM:
        return Absent("the low-lamp shots are too coarse for the paper's relief")
    ways = np.array([_toward(light) for light in lamps])
    singular = np.linalg.svd(ways, compute_uv=False)
    if singular[-1] < _LEAST_CONDITION * singular[0]:
        return Absent("the low lamps stood on one line; add a shot from another side")
    if min(rect.width, rect.height) < MINIMUM_SIDE_MM:
        return Absent("the zone is too small to see how the pigment lies in the tooth")
    seen = lights[0].relative(rect, scale)[0][..., 1]
    shading = np.stack([light.relative(rect, scale)[0][..., 1] / np.maximum(seen, 1e-3) - 1 for light in lamps])
    slopes = np.einsum("sl,lhw->shw", -np.linalg.pinv(ways), shading)
    blur_mm = (lights[0].blur_px or 0.0) / lights[0].capture.calibration.geometry.pixels_per_mm
    return Hollows(-relief_from_slopes(slopes[0], slopes[1], scale, blur_mm), scale, blur_mm)


def paper_shading(lights: Sequence[LitShot], places: Sequence[Rect], texture: PaperTexture | None) -> PaperShading | None:
    """From the bare paper at `places`, freed of the sensor's noise by `texture`; None where lamps do not tell."""
    if texture is None:
        return None
    seen, area = [], 0.0
    for place in places:
        rect = place.inset(_EDGE_MM)
        hollows = hollows_of(lights, rect)
        if isinstance(hollows, Absent):
            continue
        darkness = -np.log(np.maximum(lights[0].relative(rect, hollows.pixels_per_mm)[0][..., 1], 1e-3))
        found = hollows.follow(np.asarray(darkness, dtype=np.float32))
        if found is not None:
            seen.append((found.value, float(banded(darkness, hollows.pixels_per_mm, hollows.blur_mm).var())))
            area += rect.width * rect.height
    # L* + 16 goes with the cube root of light.
    by_relief = 9 * texture.variance[GRAIN_BAND] / (texture.mean_l + 16) ** 2
    if not seen or by_relief <= 0:
        return None
    raw, varies = np.mean(seen, axis=0).tolist()
    freed = max(float(np.sqrt(varies / by_relief)), 1.0)
    spots = max(area / MM2_A_SPOT, 8.0)
    return PaperShading(in_hollows=float(np.clip(raw * freed, -1, 1)), u=float(freed / np.sqrt(spots) + 0.02))


def tooth_correlation(hollows: Hollows | Absent, zone: ZonePixels, paper: Floats, shading: PaperShading | None = None) -> Tooth | Absent:
    """Correlation in 0.4 to 3 cycles/mm of tint depth in the flat light with the depth of the hollows; `zone` are the pixels
    over them. Without `shading` the flat shot's is taken to be of the hollows wholly."""
    if isinstance(hollows, Absent):
        return hollows
    if zone.used_fraction < _LEAST_GOOD:
        return Absent("too little of the zone could be used")
    tint = tint_depth(zone.xyz, paper)
    found = hollows.follow(np.where(zone.good, tint, np.median(tint[zone.good])).astype(np.float32))
    if found is None:
        return Absent("neither relief nor unevenness is seen")
    r, u = found.value, found.u
    share, share_u = (1.0, 0.0) if shading is None else (shading.in_hollows, min(shading.u, 1.0))
    return Tooth(correlation=r, u=u, with_shading=r * share, with_shading_u=float(np.hypot(u * share, r * share_u)))


def _toward(light: LitShot) -> Floats:
    """How much a slope (x, y) shades in this light: the lamp's level direction over the tangent of its height."""
    azimuth = np.radians(light.azimuth_deg or 0.0)
    height = np.tan(np.radians(light.elevation_deg or _ELEVATION_DEG))
    return np.asarray(np.array([np.cos(azimuth), np.sin(azimuth)]) / height)


def relief_from_slopes(dx: Floats, dy: Floats, pixels_per_mm: float, blur_mm: float) -> Floats:
    """Height (h, w) in mm, in the grain's band, of slopes (h, w) along x and y (R. T. Frankot, R. Chellappa, IEEE Trans.
    Pattern Anal. Mach. Intell. 10 (1988) 439-451)."""
    rim = min(int(2 * pixels_per_mm), min(dx.shape) - 1)
    size = dx.shape
    padded = [np.pad(d - d.mean(), rim, mode="reflect") for d in (dx, dy)]
    fy = np.fft.fftfreq(padded[0].shape[0], 1 / pixels_per_mm)[:, None]
    fx = np.fft.fftfreq(padded[0].shape[1], 1 / pixels_per_mm)[None]
    squared = fx**2 + fy**2
    squared[0, 0] = 1.0
    transform = (fx * np.fft.fft2(padded[0]) + fy * np.fft.fft2(padded[1])) / (2j * np.pi * squared)
    transform[0, 0] = 0
    frequency = np.sqrt(squared)
    height = np.fft.ifft2(transform * band_pass(frequency, GRAIN_BAND) * blur_gain(frequency, blur_mm)).real
    return np.asarray(height[rim : rim + size[0], rim : rim + size[1]])


def banded(values: Floats, pixels_per_mm: float, blur_mm: float) -> Floats:
    """The grain's band of a field (h, w), the blur undone."""
    from scipy.fft import dctn, idctn

    frequency = cosine_frequency(values.shape, pixels_per_mm)
    coefficients = dctn(values.astype(np.float32) - np.float32(values.mean()), norm="ortho")
    return np.asarray(idctn(coefficients * band_pass(frequency, GRAIN_BAND) * blur_gain(frequency, blur_mm), norm="ortho"))
