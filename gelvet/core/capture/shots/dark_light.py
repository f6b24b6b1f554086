"""The dark end of a device's curve, which no patch reaches, told by shots of one card in more and in less light.

Twice the light on a card must come back as twice the light from every place on it. A lamp's dimmer shot shows dark paint further
down the curve than the even one does, and the curve is right where both agree: the principle of recovering a camera's response
from several exposures (P. E. Debevec and J. Malik, SIGGRAPH 97, 369-378), here for the stretch below the darkest patches alone.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture, DarkLight
from gelvet.core.card.layout import Zone

# Light, as a share of white, at which the correction bends; from the last on the patches know better.
_KNOTS = np.array([0.0, 0.004, 0.008, 0.014, 0.022, 0.033, 0.048, 0.07])
_UNPAINTED = ("paper", "black_paper")
_COARSE_PIXELS_PER_MM, _PIXELS_PER_MM, _CELL_PIXELS = 1.0, 4.0, 12
_EDGE_MM = 0.6
# By how much fitted curves miss the dark (k = 1), and how far that may bend from one knot to the next but one.
_MISSED, _BEND = 0.0025, 0.0006
# What two shots of one place differ by for other reasons: its share of the light, and so much of white where the light is full.
_OTHER_SHARE, _OTHER_LIGHT = 0.01, 0.0003
# One paint alone could as well have a sheen.
_LEAST_PAINTS, _ROUNDS, _BELIEVED = 2, 8, 1.5


@dataclass(frozen=True, slots=True)
class _Cells:
    """Small squares of painted zones in one shot: light (n, 3) as stored, NaN where nothing is seen, and the light (n, 3) that falls
    there."""

    stored: Floats
    falling: Floats


def with_dark_light(flat: CalibratedCapture, others: Sequence[CalibratedCapture]) -> CalibratedCapture:
    """The capture with its curve set right in the dark, as far as all shots then agree; as it was where they show less than two dark
    paints. The `others` are stored as it is, and evenly lit."""
    zones = [z for z in flat.layout.zones if z.kind not in _UNPAINTED and _is_dark(flat, z)]
    if not zones or not others:
        return flat
    one, owners = _cells(flat, zones)
    parts = [_disagreement(one, _cells(other, zones)[0], owners + number / len(others)) for number, other in enumerate(others)]
    design, wanted, groups = (np.concatenate([part[i] for part in parts]) for i in range(3))
    if len(np.unique(np.floor(groups))) < _LEAST_PAINTS:
        return flat
    missing, cal = _solved(design, wanted, groups), flat.calibration
    undone = None if cal.undone_lookup is None else _corrected(cal.undone_lookup, missing)
    return replace(
        flat,
        calibration=replace(cal, lookup=_corrected(cal.lookup, missing), undone_lookup=undone, dark_light=DarkLight(_KNOTS, missing)),
    )


def _is_dark(flat: CalibratedCapture, zone: Zone) -> bool:
    linear, _ = flat.linear(zone.rect.inset(_EDGE_MM), _COARSE_PIXELS_PER_MM)
    return bool(linear.min() < _KNOTS[-1])


def _cells(capture: CalibratedCapture, zones: Sequence[Zone]) -> tuple[_Cells, Floats]:
    """The cells of all zones, and by number (n,) whose paint each shows."""
    swatches = sorted({str(z.swatch) for z in zones})
    stored, falling, owners = [], [], []
    for zone in zones:
        rect = zone.rect.inset(_EDGE_MM)
        linear, good = capture.linear(rect, _PIXELS_PER_MM)
        light = capture.calibration.light.over(rect, good.shape)
        for top in range(0, max(good.shape[0] - _CELL_PIXELS, 0) + 1, _CELL_PIXELS):
            for left in range(0, max(good.shape[1] - _CELL_PIXELS, 0) + 1, _CELL_PIXELS):
                cell = np.s_[top : top + _CELL_PIXELS, left : left + _CELL_PIXELS]
                level = light[cell].mean(axis=(0, 1), dtype=float)
                seen = good[cell].mean() > 0.5
                stored.append(np.median(linear[cell][good[cell]], axis=0) * level if seen else np.full(3, np.nan))
                falling.append(level)
                owners.append(float(swatches.index(str(zone.swatch))))
    return _Cells(np.array(stored, dtype=float), np.array(falling)), np.array(owners)


def _disagreement(one: _Cells, other: _Cells, groups: Floats) -> tuple[Floats, Floats, Floats]:
    """What a correction at each knot would change (n, 8) of by how much (n,) the even shot's dark cells are paler than another's, both
    in units of what they may differ by anyway; and whose they are (n,)."""
    x, y = one.stored / one.falling, other.stored / other.falling
    dark = (other.stored < _KNOTS[-1]) & (one.stored < 2 * _KNOTS[-1])  # False where nothing is seen
    spread = np.hypot(_OTHER_SHARE * x, _OTHER_LIGHT / other.falling)[dark]
    design = _hats(other.stored[dark]) / other.falling[dark, None] - _hats(one.stored[dark]) / one.falling[dark, None]
    return design / spread[:, None], (x - y)[dark] / spread, np.repeat(groups[:, None], 3, axis=1)[dark]


def _corrected(lookup: Floats, missing: Floats) -> Floats:
    """Still rising where it rose."""
    moved = lookup + np.interp(lookup, _KNOTS, missing).astype(lookup.dtype)
    return np.maximum.accumulate(moved, axis=0)


def _hats(light: Floats) -> Floats:
    """Shares (n, 8) of the knots at `light` (n,)."""
    return np.stack([np.interp(light, _KNOTS, row) for row in np.eye(len(_KNOTS))], axis=1)


def _solved(design: Floats, wanted: Floats, groups: Floats) -> Floats:
    """Least squares that believes few outliers (P. J. Huber, Ann. Math. Stat. 35 (1964) 73-101), the last knot held at 0. Cells of one
    paint in one shot err together, so that each such group counts as one."""
    knots = np.eye(len(_KNOTS))
    held = np.where(knots[-1], 1e6, 1 / _MISSED)
    prior = np.concatenate([knots * held[:, None], np.diff(knots, 2, axis=0) / _BEND])
    _, group = np.unique(groups, return_inverse=True)
    share = 1 / np.bincount(group)[group]
    answer, believed = np.zeros(len(_KNOTS)), np.ones(len(wanted))
    for _ in range(_ROUNDS):
        weight = np.sqrt(share * believed)
        rows = np.concatenate([design * weight[:, None], prior])
        answer = np.linalg.lstsq(rows, np.append(wanted * weight, np.zeros(len(prior))), rcond=None)[0]
        believed = np.minimum(1, _BELIEVED / np.maximum(np.abs(design @ answer - wanted), 1e-9))
    return np.asarray(answer)
