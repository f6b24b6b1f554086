"""How rough a place is under low lamps, against the bare paper: scrubbing raises fibres (measurement.md 8)."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Rect
from gelvet.core.measure.granulation import MINIMUM_PIXELS_PER_MM, MINIMUM_SIDE_MM
from gelvet.core.measure.tooth import banded

_EDGE_MM = 0.8


def rise_of_roughness(lights: Sequence[LitShot], place: Rect, bare: float | None) -> float | None:
    """Share by which a place is rougher than the `bare` paper; None where one of both is not known."""
    here = None if bare is None else roughness(lights, [place])
    return None if here is None or bare is None else here / bare - 1


def roughness(lights: Sequence[LitShot], places: Sequence[Rect]) -> float | None:
    """SD of the shading in 0.4 to 3 cycles/mm, the median of the places; None without a low lamp, or where all places are too
    small or too coarse."""
    lamps = [light for light in lights if light.raking]
    found = [r for rect in places if lamps and (r := _of_one(lights[0], lamps, rect)) is not None]
    return float(np.median(found)) if found else None


def _of_one(flat: LitShot, lamps: Sequence[LitShot], rect: Rect) -> float | None:
    """RMS over the lamps of the SD of the light against the flat shot's."""
    inner = rect.inset(_EDGE_MM)
    scale = min(light.capture.calibration.geometry.pixels_per_mm for light in (flat, *lamps))
    if min(inner.width, inner.height) < MINIMUM_SIDE_MM or scale < MINIMUM_PIXELS_PER_MM:
        return None
    even = np.maximum(flat.relative(inner, scale)[0][..., 1], 1e-3)
    variance = 0.0
    for lamp in lamps:
        blur_mm = (lamp.blur_px or 0.0) / lamp.capture.calibration.geometry.pixels_per_mm
        variance += float(banded(lamp.relative(inner, scale)[0][..., 1] / even, scale, blur_mm).var())
    return float(np.sqrt(variance / len(lamps)))
