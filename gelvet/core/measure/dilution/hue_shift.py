"""Hue shift from masstone to wash (measurement.md 3)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_lch, xyz_to_lab
from gelvet.core.measure.quantities.colour import WASH_SHARE, DilutionPath, HueShift
from gelvet.core.measure.uncertainty import chroma_u, difference_u, hue_u_deg
from gelvet.core.measure.values import Absent

TOO_GREY_DEG = 15.0
_POINTS = 30
# The calibration errs alike on one paint at two depths: in trials (decision 0034) the hue errors of masstone and wash correlate by
# about this much, so that part of them cancels in the difference. Whether a hue means anything does not hang on that.
SHARED_HUE = 0.7


def hue_shift(path: DilutionPath, u_masstone: Floats, u_wash: Floats) -> HueShift | Absent:
    """`u_masstone` and `u_wash` (3,) in L*, a*, b* at both ends. Absent where the hue means nothing."""
    ends = path.masstone.lab, path.wash_lab
    dark, pale = (hue_u_deg(lab, u) for lab, u in zip(ends, (u_masstone, u_wash), strict=True))
    if np.hypot(dark, pale) > TOO_GREY_DEG:
        return Absent("too grey")
    labs = _between(path)
    hue = np.degrees(np.unwrap(np.radians(lab_to_lch(labs)[:, 2])))
    delta_h, u = float(hue[-1] - hue[0]), difference_u(dark, pale, SHARED_HUE)
    chroma = np.hypot(labs[[0, -1], 1], labs[[0, -1], 2])
    middle, half_turn = float(np.sqrt(chroma[0] * chroma[1])), np.radians(delta_h) / 2
    of_chroma = [chroma_u(lab, u_lab) / c for lab, u_lab, c in zip(ends, (u_masstone, u_wash), chroma, strict=True)]
    return HueShift(
        delta_h=delta_h,
        delta_big_h=float(2 * middle * np.sin(half_turn)),
        delta_big_h_u=float(middle * np.hypot(np.cos(half_turn) * np.radians(u), np.sin(half_turn) * np.hypot(*of_chroma))),
        travel=float(np.abs(np.diff(hue)).sum()),
        # Errors of two places differ by the more, the further they lie apart, as a walk at random does: to and fro adds up as one way.
        travel_u=u,
        u=u,
    )


def _between(path: DilutionPath) -> Floats:
    """30 L*a*b* from masstone to wash, evenly in depth."""
    wanted = np.linspace(path.masstone_depth, WASH_SHARE * path.masstone_depth, _POINTS)
    order = np.argsort(path.depth)
    labs = xyz_to_lab(path.xyz)[order]
    points = np.stack([np.interp(wanted, path.depth[order], labs[:, c]) for c in range(3)], axis=1)
    points[0], points[-1] = path.masstone.lab, path.wash_lab
    return points
