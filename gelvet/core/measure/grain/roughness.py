"""How rough a place is under low lamps: the bare paper's relief, and scrubbing that raises its fibres (measurement.md 4, 8)."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Rect
from gelvet.core.measure.grain.granulation import MINIMUM_PIXELS_PER_MM, MINIMUM_SIDE_MM
from gelvet.core.measure.grain.tooth import MM2_A_SPOT, banded
from gelvet.core.measure.quantities.paper import PaperRelief
from gelvet.core.measure.uncertainty import from_variance_u, ratio_u
from gelvet.core.measure.values import Absent, Figure

NO_LAMP = Absent("relief needs shots with a low lamp")
_EDGE_MM = 0.8
# How well a hand knows how low its lamp stands (k = 1).
_ELEVATION_U_DEG = 2.0
# Lower, ridges hide what lies behind them; higher, slopes hardly shade. Other units fall outside too.
_LOWEST_DEG, _HIGHEST_DEG = 5.0, 60.0


def paper_relief(lights: Sequence[LitShot], places: Sequence[Rect]) -> PaperRelief | Absent:
    """Slope of the bare paper at `places`: matte ground lit at elevation e shades by its slope toward the lamp over tan e."""
    lamps = [light for light in lights if light.raking]
    if not lamps:
        return NO_LAMP
    known = [(light, at) for light in lamps if (at := light.elevation_deg) is not None and _LOWEST_DEG <= at <= _HIGHEST_DEG]
    if not known:
        return Absent(f"no shot says how low its lamp stood, {_LOWEST_DEG:.0f} to {_HIGHEST_DEG:.0f}°, without which shadows tell no slope")
    fine = [(light, at) for light, at in known if _is_fine(light)]
    lit, elevations = [light for light, _ in fine], np.radians([elevation for _, elevation in fine])
    shadings = [found for rect in places if (found := _shadings(lights[0], lit, rect)) is not None]
    slopes = np.array([float(np.sqrt(np.mean((found * np.tan(elevations)) ** 2))) for found in shadings])
    if len(slopes) == 0:
        return Absent("the bare paper is too small or too coarse for its relief")
    slope = float(np.median(slopes))
    lowest = min(elevation for _, elevation in known)
    by_angle = np.radians(_ELEVATION_U_DEG) / (np.sin(np.radians(lowest)) * np.cos(np.radians(lowest)))
    apart = float(slopes.std() / np.sqrt(len(slopes)))
    return PaperRelief(slope=slope, u=float(np.hypot(slope * by_angle, apart)))


def rise_of_roughness(lights: Sequence[LitShot], place: Rect, bare: Figure | None) -> Figure | None:
    """Share by which a place is rougher than the `bare` paper; None where one of both is not known."""
    here = None if bare is None else roughness(lights, [place])
    if here is None or bare is None:
        return None
    return Figure(here.value / bare.value - 1, ratio_u(here, bare))


def roughness(lights: Sequence[LitShot], places: Sequence[Rect]) -> Figure | None:
    """SD of the shading in 0.4 to 3 cycles/mm, the median of the places; None without a low lamp, or where all places are too
    small or too coarse."""
    lamps = [light for light in lights if light.raking and _is_fine(light)]
    judged = [(rect, float(np.sqrt(np.mean(s**2)))) for rect in places if (s := _shadings(lights[0], lamps, rect)) is not None]
    if not judged:
        return None
    middle = float(np.median([sd for _, sd in judged]))
    return Figure(middle, from_variance_u(middle, sum(rect.width * rect.height for rect, _ in judged) / MM2_A_SPOT))


def _is_fine(light: LitShot) -> bool:
    return light.capture.calibration.geometry.pixels_per_mm >= MINIMUM_PIXELS_PER_MM


def _shadings(flat: LitShot, lamps: Sequence[LitShot], rect: Rect) -> Floats | None:
    """SD (n,) of each lamp's light against the flat shot's, blur undone; None without a lamp, or where the place is too small or
    the flat shot too coarse."""
    inner = rect.inset(_EDGE_MM)
    scale = min(light.capture.calibration.geometry.pixels_per_mm for light in (flat, *lamps))
    if not lamps or min(inner.width, inner.height) < MINIMUM_SIDE_MM or not _is_fine(flat):
        return None
    even = np.maximum(flat.relative(inner, scale)[0][..., 1], 1e-3)
    return np.array([_shading(lamp, even, inner, scale) for lamp in lamps])


def _shading(lamp: LitShot, even: Floats, rect: Rect, scale: float) -> float:
    blur_mm = (lamp.blur_px or 0.0) / lamp.capture.calibration.geometry.pixels_per_mm
    return float(banded(lamp.relative(rect, scale)[0][..., 1] / even, scale, blur_mm).std())
