"""A low lamp beside the card: it brings out the relief of the paper and the mirror flakes, and fades across the card."""

from dataclasses import dataclass

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
    azimuth, elevation = np.radians(lamp.azimuth_deg), np.radians(lamp.elevation_deg)
    dx, dy = slopes(card)
    # The surface's normal leans away from rising ground; light falls on it with the cosine of the angle between.
    facing = -(dx * np.cos(azimuth) + dy * np.sin(azimuth)) / np.tan(elevation)
    shading = np.clip(1 + facing, 0.05, None).astype(np.float32)
    lit = light_up(card.device, card.flakes, card.pixels_per_mm, lamp.azimuth_deg, lamp.elevation_deg)
    return np.asarray(lit * (lamp.exposure * shading * _fading(card, lamp))[..., None], dtype=np.float32)


def slopes(card: PaintedCard) -> tuple[Floats, Floats]:
    """Rise over run (h, w) of the card's surface to the right and to the foot."""
    dy, dx = np.gradient(card.relief)
    steepness = _SLOPE / max(float(np.hypot(dx, dy).std()), 1e-6)
    return np.asarray(dx * steepness), np.asarray(dy * steepness)


def _fading(card: PaintedCard, lamp: Lamp) -> Floats:
    """Inverse square of the distance and the sine of the elevation, over the card (h, w)."""
    height, width = card.relief.shape
    azimuth, elevation = np.radians(lamp.azimuth_deg), np.radians(lamp.elevation_deg)
    level = lamp.distance_mm * np.cos(elevation)
    place = np.array([level * np.cos(azimuth), level * np.sin(azimuth), lamp.distance_mm * np.sin(elevation)])
    x = (np.arange(width) + 0.5) / card.pixels_per_mm - card.layout.size_mm[0] / 2
    y = (np.arange(height) + 0.5) / card.pixels_per_mm - card.layout.size_mm[1] / 2
    distance2 = (x[None] - place[0]) ** 2 + (y[:, None] - place[1]) ** 2 + place[2] ** 2
    return np.asarray((lamp.distance_mm**2 / distance2) ** 1.5, dtype=np.float32)
