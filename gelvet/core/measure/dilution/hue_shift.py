"""Hue shift from masstone to wash (measurement.md 3)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_lch, xyz_to_lab
from gelvet.core.measure.dilution.path import WASH_SHARE
from gelvet.core.measure.quantities.colour import DilutionPath, HueShift
from gelvet.core.measure.values import Absent

TOO_GREY_DEG = 15.0
_POINTS = 30
# The calibration errs alike on one paint at two depths: in trials (decision 0034) the hue errors of masstone and wash correlate by
# about this much, so that part of them cancels in the difference. Whether a hue means anything does not hang on that.
_SHARED = 0.7


def hue_uncertainty_deg(lab: Floats, u_lab: Floats) -> float:
    """Standard uncertainty of the hue angle of `lab` (3,), from that across the hue direction in the a*b* plane."""
    a, b = float(lab[1]), float(lab[2])
    chroma = max(float(np.hypot(a, b)), 1e-6)
    across = float(np.hypot(b / chroma * u_lab[1], a / chroma * u_lab[2]))
    return float(np.degrees(across / chroma))


def hue_shift(path: DilutionPath, u_masstone: Floats, u_wash: Floats) -> HueShift | Absent:
    """`u_masstone` and `u_wash` (3,) in L*, a*, b* at both ends. Absent where the hue means nothing."""
    masstone, wash = path.masstone.lab, path.wash_lab
    dark, pale = hue_uncertainty_deg(masstone, u_masstone), hue_uncertainty_deg(wash, u_wash)
    if np.hypot(dark, pale) > TOO_GREY_DEG:
        return Absent("too grey")
    labs = _between(path)
    hue = np.degrees(np.unwrap(np.radians(lab_to_lch(labs)[:, 2])))
    delta_h = float(hue[-1] - hue[0])
    chroma = np.hypot(labs[[0, -1], 1], labs[[0, -1], 2])
    return HueShift(
        delta_h=delta_h,
        delta_big_h=float(2 * np.sqrt(chroma[0] * chroma[1]) * np.sin(np.radians(delta_h) / 2)),
        travel=float(np.abs(np.diff(hue)).sum()),
        u=float(np.sqrt(dark**2 + pale**2 - 2 * _SHARED * dark * pale)),
    )


def _between(path: DilutionPath) -> Floats:
    """30 L*a*b* from masstone to wash, evenly in depth."""
    wanted = np.linspace(path.masstone_depth, WASH_SHARE * path.masstone_depth, _POINTS)
    order = np.argsort(path.depth)
    labs = xyz_to_lab(path.xyz)[order]
    points = np.stack([np.interp(wanted, path.depth[order], labs[:, c]) for c in range(3)], axis=1)
    points[0], points[-1] = path.masstone.lab, path.wash_lab
    return points
