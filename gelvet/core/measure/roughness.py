"""How rough a place is under low lamps: the bare paper's relief, and scrubbing that raises its fibres (measurement.md 4, 8)."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Rect
from gelvet.core.measure.granulation import MINIMUM_PIXELS_PER_MM, MINIMUM_SIDE_MM
from gelvet.core.measure.quantities.paper import PaperRelief
from gelvet.core.measure.tooth import banded
from gelvet.core.measure.values import Absent

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
    squares = [
        [
            float(shading**2 * np.tan(np.radians(elevation)) ** 2)
            for light, elevation in known
            if (shading := _shading(lights[0], light, rect))
        ]
        for rect in places
    ]
    slopes = np.sqrt([np.mean(of_place) for of_place in squares if of_place])
    if len(slopes) == 0:
        return Absent("the bare paper is too small or too coarse for its relief")
    slope = float(np.median(slopes))
    lowest = min(elevation for _, elevation in known)
    by_angle = np.radians(_ELEVATION_U_DEG) / (np.sin(np.radians(lowest)) * np.cos(np.radians(lowest)))
    apart = float(slopes.std() / np.sqrt(len(slopes)))
    return PaperRelief(slope=slope, u=float(np.hypot(slope * by_angle, apart)))


def rise_of_roughness(lights: Sequence[LitShot], place: Rect, bare: float | None) -> float | None:
    """Share by which a place is rougher than the `bare` paper; None where one of both is not known."""
    here = None if bare is None else roughness(lights, [place])
    return None if here is None or bare is None else here / bare - 1


def roughness(lights: Sequence[LitShot], places: Sequence[Rect]) -> float | None:
    """SD of the shading in 0.4 to 3 cycles/mm, the median of the places; None without a low lamp, or where all places are too
    small or too coarse."""
    lamps = [light for light in lights if light.raking]
    of_places = [[shading for lamp in lamps if (shading := _shading(lights[0], lamp, rect)) is not None] for rect in places]
    found = [float(np.sqrt(np.mean(np.square(shadings)))) for shadings in of_places if shadings]
    return float(np.median(found)) if found else None


def _shading(flat: LitShot, lamp: LitShot, rect: Rect) -> float | None:
    """SD of the lamp's light against the flat shot's, blur undone; None where the place is too small or too coarse."""
    inner = rect.inset(_EDGE_MM)
    scale = min(light.capture.calibration.geometry.pixels_per_mm for light in (flat, lamp))
    if min(inner.width, inner.height) < MINIMUM_SIDE_MM or scale < MINIMUM_PIXELS_PER_MM:
        return None
    even = np.maximum(flat.relative(inner, scale)[0][..., 1], 1e-3)
    blur_mm = (lamp.blur_px or 0.0) / lamp.capture.calibration.geometry.pixels_per_mm
    return float(banded(lamp.relative(inner, scale)[0][..., 1] / even, scale, blur_mm).std())
