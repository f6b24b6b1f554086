"""A low lamp beside the card: it brings out the relief of the paper and the mirror flakes, and fades across the card."""

from dataclasses import dataclass
from math import cos, radians, sin, tan

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.simulate.flakes import light_up
from gelvet.core.simulate.painted_card import PaintedCard

# Root mean square slope of cold-pressed paper, rise over run.
_SLOPE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Lamp:
    """`azimuth_deg` 0 from the card's right, 90 from its foot; `elevation_deg` above the paper; at `distance_mm`.

    `exposure` is what level paper at the centre gets against even light: one stop less, so that ridges and glints hold."""

    azimuth_deg: float
    elevation_deg: float = 20.0
    distance_mm: float = 600.0
    exposure: float = 0.5


def lit_by(card: PaintedCard, lamp: Lamp) -> Floats:
    """Linear light (h, w, 3) of the card by `lamp` alone, exposed as the lamp says."""
    azimuth, elevation = radians(lamp.azimuth_deg), radians(lamp.elevation_deg)
    dx, dy = slopes(card)
    # The surface's normal leans away from rising ground; light falls on it with the cosine of the angle between.
    facing = (dx * cos(azimuth) + dy * sin(azimuth)) / -tan(elevation)
    light = np.maximum(1 + facing, 0.05) * _fading(card, lamp) * lamp.exposure
    return light_up(card.device, card.flakes, card.pixels_per_mm, lamp.azimuth_deg, lamp.elevation_deg) * light[..., None]


def slopes(card: PaintedCard) -> tuple[Floats, Floats]:
    """Rise over run (h, w) of the card's surface to the right and to the foot."""
    dy, dx = np.gradient(card.relief)
    steepness = _SLOPE / max(float(np.hypot(dx, dy).std()), 1e-6)
    return np.asarray(dx * steepness), np.asarray(dy * steepness)


def _fading(card: PaintedCard, lamp: Lamp) -> Floats:
    """Inverse square of the distance and the sine of the elevation, over the card (h, w)."""
    height, width = card.relief.shape
    azimuth, elevation = radians(lamp.azimuth_deg), radians(lamp.elevation_deg)
    level = cos(elevation)
    # Lengths in units of the lamp's distance.
    x, y = (
        ((np.arange(pixels) + 0.5) / card.pixels_per_mm - side / 2) / lamp.distance_mm
        for pixels, side in zip((width, height), card.layout.size_mm, strict=True)
    )
    across, down = (x - level * cos(azimuth)) ** 2, (y - level * sin(azimuth)) ** 2 + sin(elevation) ** 2
    distance2 = across.astype(np.float32) + down.astype(np.float32)[:, None]
    return np.asarray(1 / (distance2 * np.sqrt(distance2)))
