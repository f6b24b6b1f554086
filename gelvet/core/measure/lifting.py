"""Lifting: how much of the paint a damp brush takes away, and what stays (measurement.md 8)."""

import numpy as np

from gelvet.core.colour.difference import ciede2000
from gelvet.core.measure.values import Absent, Lifting, ZoneColour, tint_depth

# Lower limits of the share removed for each class.
CLASS_LIMITS: tuple[tuple[float, str], ...] = ((0.85, "non-staining"), (0.60, "low"), (0.30, "medium"))
_MINIMUM_DEPTH = 0.04


def staining_class(removed: float) -> str:
    """Class of the share of tint depth removed."""
    return next((name for limit, name in CLASS_LIMITS if removed >= limit), "high")


def lifting(paper: ZoneColour, unlifted: ZoneColour, lifted: ZoneColour) -> Lifting | Absent:
    """Figures of a scrubbed place against the same paint beside it."""
    before, after = (float(tint_depth(z.xyz, paper.xyz)) for z in (unlifted, lifted))
    if before < _MINIMUM_DEPTH:
        return Absent("the unlifted paint is hardly darker than the bare paper")
    removed = 1 - after / before
    depth_u = 0.01 * float(np.hypot(unlifted.u_spatial, lifted.u_spatial)) + 0.006
    return Lifting(
        removed=removed,
        residual_de00=float(ciede2000(lifted.lab, paper.lab)),
        staining=staining_class(removed),
        u=depth_u / before,
    )
