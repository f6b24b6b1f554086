"""Along the gradient: how evenly it pales, blooms that ran back into it, sudden mid-tones, and what dilution alone would do
(measurement.md 3)."""

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.colour.spaces import lab_to_lch, lab_to_xyz, xyz_to_lab
from gelvet.core.measure.dilution.backruns import backruns
from gelvet.core.measure.dilution.hue_shift import SHARED_HUE
from gelvet.core.measure.quantities.colour import WASH_SHARE, ChromaPeak, DilutionPath, DilutionShift, Flare, Gradient
from gelvet.core.measure.uncertainty import chroma_u, from_variance_u, rise
from gelvet.core.measure.values import ZonePixels, tint_depth

_FLARE_DE, _FLARE_REACH = 5.0, 0.15
# Lines of half a millimetre next to each other go together.
_LINES_ALIKE = 2


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
    blooms = backruns(np.where(gradient.good, depth, np.median(depth[gradient.good])), gradient.pixels_per_mm)
    unevenness = float(np.sqrt(np.mean(residual**2)))
    return Gradient(
        unevenness=unevenness,
        u=float(np.hypot(from_variance_u(unevenness, count / _LINES_ALIKE), rise(unevenness, _chance(depth, gradient.good, across, step)))),
        backruns=blooms.number,
        backrun_strength=blooms.strength,
        backrun_strength_u=blooms.u,
    )


def _chance(depth: Floats, good: Mask, across: int, step: int) -> float:
    """Variance of a line's mean that grain gives it, from squares as wide as the line next to each other; a trend that takes all
    there is may hide as much."""
    lines = np.where(good, depth, np.nan)
    lines = lines if across == 0 else lines.T
    rows, columns = (side // step for side in lines.shape)
    squares = lines[: rows * step, : columns * step].reshape(rows, step, columns, step)
    full = ~np.isnan(squares).any(axis=(1, 3))
    means = np.where(full, np.nan_to_num(squares).mean(axis=(1, 3)), np.nan)[:, full.sum(axis=0) > 1]
    return float(np.mean(np.nanvar(means, axis=0, ddof=1) / np.sum(~np.isnan(means), axis=0))) if means.size else 0.0


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
    if place is None or worst < _FLARE_DE:
        return None
    # Errors of places so near each other go together but for this: what errors of the hue do between masstone and wash, by the way.
    apart = (1 - SHARED_HUE) * _FLARE_REACH / (1 - WASH_SHARE)
    return Flare(delta_e=worst, u=float(np.sqrt(apart) * np.linalg.norm(path.u_lab_at(place)[1:])), depth=place)


def chroma_peak(path: DilutionPath) -> ChromaPeak:
    labs = xyz_to_lab(path.xyz)
    chroma = np.hypot(labs[:, 1], labs[:, 2])
    between = path.depth >= WASH_SHARE * path.masstone_depth
    best = int(np.argmax(np.where(between, chroma, -1)))
    depth = float(path.depth[best])
    return ChromaPeak(chroma=float(chroma[best]), u=chroma_u(labs[best], path.u_lab_at(depth)), depth=depth)


def shift_by_dilution(path: DilutionPath, paper: Floats) -> DilutionShift:
    """What one-constant scaling of the masstone's density would give."""
    masstone = path.masstone
    found = _scaled_shift(masstone.xyz, paper)
    moved = [_scaled_shift(lab_to_xyz(masstone.lab + step), paper) - found for step in np.diag(masstone.u_lab)]
    return DilutionShift(delta_h=found, u=float(np.linalg.norm(moved)))


def _scaled_shift(masstone: Floats, paper: Floats) -> float:
    """Degrees by which the hue of `masstone` (3,) turns while its density over `paper` (3,) is scaled to the wash's."""
    density = np.log10(paper / np.maximum(masstone, 1e-3))
    shares = np.linspace(1, WASH_SHARE, 30)
    hue = np.unwrap(np.radians(lab_to_lch(xyz_to_lab(paper * 10 ** -(shares[:, None] * density)))[:, 2]))
    return float(np.degrees(hue[-1] - hue[0]))
