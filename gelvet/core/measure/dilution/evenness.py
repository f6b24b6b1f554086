"""Along the gradient: how evenly it pales, blooms that ran back into it, sudden mid-tones, and what dilution alone would do
(measurement.md 3)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_lch, xyz_to_lab
from gelvet.core.measure.dilution.backruns import backruns
from gelvet.core.measure.dilution.path import WASH_SHARE
from gelvet.core.measure.quantities.colour import DilutionPath, Flare, Gradient
from gelvet.core.measure.values import ZonePixels, tint_depth

_FLARE_DE, _FLARE_REACH = 5.0, 0.15


def gradient_evenness(gradient: ZonePixels, axis: str, paper: Floats) -> Gradient | None:
    """Residual of depth about its monotone trend along the axis, and blooms; None where there is too little of it."""
    depth = tint_depth(gradient.xyz, paper)
    across = 1 if "y" in axis else 0
    if not gradient.good.any():
        return None
    weight = gradient.good.sum(axis=across)
    lines = (np.where(gradient.good, depth, 0).sum(axis=across) / np.maximum(weight, 1))[weight > 0]
    if axis.startswith("-"):
        lines = lines[::-1]
    step = max(1, round(0.5 * gradient.pixels_per_mm))
    count = len(lines) // step
    if count < 8:
        return None
    profile = lines[: count * step].reshape(count, step).mean(axis=1)
    residual = profile - _falling(profile)
    blooms, strength = backruns(np.where(gradient.good, depth, np.median(depth[gradient.good])), gradient.pixels_per_mm)
    return Gradient(unevenness=float(np.sqrt(np.mean(residual**2))), backruns=blooms, backrun_strength=strength)


def _falling(profile: Floats) -> Floats:
    """The nearest profile that never rises (pool-adjacent-violators)."""
    from scipy.optimize import isotonic_regression

    return np.asarray(isotonic_regression(profile, increasing=False).x)


def flare(path: DilutionPath) -> Flare | None:
    """A stretch of the path whose colour departs by more than 5 ΔE*ab from the chord of its neighbours; None without one."""
    order = np.argsort(path.depth)
    depth, labs = path.depth[order], xyz_to_lab(path.xyz)[order]
    inside = (depth >= WASH_SHARE * path.masstone_depth) & (depth <= path.masstone_depth)
    reach = _FLARE_REACH * path.masstone_depth
    worst, place = 0.0, None
    for i in np.flatnonzero(inside):
        low, high = depth[i] - reach, depth[i] + reach
        if low < depth[0] or high > depth[-1]:
            continue
        chord = [(np.interp(low, depth, labs[:, c]) + np.interp(high, depth, labs[:, c])) / 2 for c in (1, 2)]
        away = float(np.hypot(labs[i, 1] - chord[0], labs[i, 2] - chord[1]))
        if away > worst:
            worst, place = away, float(depth[i])
    return None if place is None or worst < _FLARE_DE else Flare(delta_e=worst, depth=place)


def chroma_peak(path: DilutionPath) -> tuple[float, float]:
    """The largest chroma between masstone and wash, and the depth where it lies."""
    lch = lab_to_lch(xyz_to_lab(path.xyz))
    between = path.depth >= WASH_SHARE * path.masstone_depth
    best = int(np.argmax(np.where(between, lch[:, 1], -1)))
    return float(lch[best, 1]), float(path.depth[best])


def shift_by_dilution(path: DilutionPath, paper: Floats) -> float:
    """Hue shift in degrees that one-constant scaling of the masstone's density would give."""
    density = np.log10(paper / path.masstone.xyz)
    shares = np.linspace(1, WASH_SHARE, 30)
    hue = np.unwrap(np.radians(lab_to_lch(xyz_to_lab(paper * 10 ** -(shares[:, None] * density)))[:, 2]))
    return float(np.degrees(hue[-1] - hue[0]))
