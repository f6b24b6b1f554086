"""Layers over layers: what each adds, and where it stops deepening (measurement.md 9)."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.measure.grain.lightness_spectrum import HALF_RESPONSE
from gelvet.core.measure.quantities.layers import Glaze, GlazeStep, LayersOverInk
from gelvet.core.measure.uncertainty import turn_u_deg
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels, tint_depth

# A layer that deepens by less than this, and by less than what can be told, adds nothing.
_NOTHING_L = 0.5
# What a stirred layer's streaks and islands span, in cycles/mm, and how many of them make a zone's figure sure.
_STIRRED_BAND = (0.1, 1.5)
_ISLAND_MM2 = 2.0


@dataclass(frozen=True, slots=True)
class Layer:
    """So many layers: their colour, and how `uneven` their depth is as a share of it; None where that is not known."""

    count: int
    colour: ZoneColour
    uneven: float | None = None
    area_mm2: float = 0.0


def glaze(layers: Sequence[Layer], over_ink: Sequence[LayersOverInk] = ()) -> Glaze | Absent:
    """Each step is the change from the layer below; `over_ink` is their hiding where they lie over an ink line too."""
    ordered = sorted(layers, key=lambda layer: layer.count)
    if len(ordered) < 2:
        return Absent("the card has fewer than two layers to compare")
    steps = [_step(ordered[0], below, above) for below, above in pairwise(ordered)]
    still = next((s.layers - 1 for s in steps if -s.delta_l < max(_NOTHING_L, 2 * s.u)), None)
    return Glaze(steps=tuple(steps), stops_deepening_at=still, hiding=tuple(sorted(over_ink, key=lambda found: found.layers)))


def unevenness(zone: ZonePixels, paper: Floats) -> float | None:
    """SD of the tint depth in the band of streaks and islands, as a share of its mean; None where too little is left."""
    import cv2

    if zone.used_fraction < 0.5:
        return None
    depth = tint_depth(zone.xyz, paper).astype(np.float32)
    middle = float(np.median(depth[zone.good]))
    if middle <= 0:
        return None
    filled = np.where(zone.good, depth, np.float32(middle))
    coarse, fine = (
        cv2.GaussianBlur(filled, (0, 0), HALF_RESPONSE / limit * zone.pixels_per_mm, borderType=cv2.BORDER_REFLECT)
        for limit in _STIRRED_BAND
    )
    return float((fine - coarse)[zone.good].std() / middle)


def _step(first: Layer, below: Layer, above: Layer) -> GlazeStep:
    count = above.count - below.count
    # Colours near each other err alike: what differs between the zones is what counts.
    u = float(np.hypot(below.colour.u_spatial, above.colour.u_spatial) + 0.1) / count
    one, other = lab_to_lch(below.colour.lab), lab_to_lch(above.colour.lab)
    change = other - one
    grey = min(one[1], other[1]) < 4
    disturbance, unsure = _disturbance(first, above)
    return GlazeStep(
        layers=above.count,
        lab=above.colour.lab,
        delta_l=float(change[0] / count),
        delta_c=float(change[1] / count),
        delta_h=None if grey else turn_deg(0.0, change[2]) / count,
        delta_h_u=None if grey else turn_u_deg(u, float(min(one[1], other[1]))),
        u=u,
        disturbance=disturbance,
        disturbance_u=unsure,
    )


def _disturbance(first: Layer, above: Layer) -> tuple[float | None, float]:
    """In quadrature over the first layer's own unevenness, with its standard uncertainty; None without a single layer."""
    if first.count != 1 or first.uneven is None or above.uneven is None:
        return None, 0.0
    islands = max(min(first.area_mm2, above.area_mm2) / _ISLAND_MM2, 4.0)
    found = float(np.sqrt(max(above.uneven**2 - first.uneven**2, 0.0)))
    spread = np.hypot(above.uneven**2, first.uneven**2) / np.sqrt(islands / 2)
    return found, float(min(spread / max(2 * found, 1e-3), np.sqrt(spread)))
