"""Layers over layers: what each adds, and where it stops deepening (measurement.md 9)."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.measure.quantities import Glaze, GlazeStep
from gelvet.core.measure.values import Absent, ZoneColour

# A layer that deepens by less than this, and by less than what can be told, adds nothing.
_NOTHING_L = 0.5


def glaze(layers: Sequence[tuple[int, ZoneColour]]) -> Glaze | Absent:
    """`layers` are counts and their colours; each step is the change from the one below."""
    ordered = sorted(layers, key=lambda layer: layer[0])
    if len(ordered) < 2:
        return Absent("the card has fewer than two layers to compare")
    steps = [_step(below, above) for below, above in pairwise(ordered)]
    still = next((s.layers - 1 for s in steps if -s.delta_l < max(_NOTHING_L, 2 * s.u)), None)
    return Glaze(steps=tuple(steps), stops_deepening_at=still)


def _step(below: tuple[int, ZoneColour], above: tuple[int, ZoneColour]) -> GlazeStep:
    count = above[0] - below[0]
    one, other = lab_to_lch(below[1].lab), lab_to_lch(above[1].lab)
    change = other - one
    grey = min(one[1], other[1]) < 4
    return GlazeStep(
        layers=above[0],
        lab=above[1].lab,
        delta_l=float(change[0] / count),
        delta_c=float(change[1] / count),
        delta_h=None if grey else float(((change[2] + 180) % 360 - 180) / count),
        # Colours near each other err alike: what differs between the zones is what counts.
        u=float(np.hypot(below[1].u_spatial, above[1].u_spatial) + 0.1),
    )
