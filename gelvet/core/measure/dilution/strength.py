"""Tinting strength: how fast K/S rises with the share of paint (measurement.md 3)."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.quantities.colour import Strength
from gelvet.core.measure.values import Absent, ZoneColour

_FEWEST = 2


def kubelka_munk(reflectance: Floats) -> Floats:
    """K/S of reflectances 0 to 1 (P. Kubelka, F. Munk, Z. tech. Phys. 12 (1931) 593)."""
    r = np.clip(reflectance, 1e-4, 1.0)
    return np.asarray((1 - r) ** 2 / (2 * r))


def strength(paper: ZoneColour, steps: Sequence[tuple[float, ZoneColour]]) -> Strength | Absent:
    """`steps` are paint fractions (0 to 1) and their colours. The slope is that of a line through the bare paper at 0, in the channel
    that gives the fullest step its tint depth."""
    known = sorted(((f, c) for f, c in steps if 0 < f <= 1), key=lambda step: step[0])
    if len(known) < _FEWEST:
        return Absent("the card has fewer than two dilution steps of known paint fraction")
    fraction = np.array([f for f, _ in known])
    reflectance = np.array([c.xyz for _, c in known]) / WHITE_D50
    channel = int(np.argmin(known[-1][1].xyz / paper.xyz))
    rise = kubelka_munk(reflectance[:, channel]) - float(kubelka_munk(paper.xyz[channel] / WHITE_D50[channel]))
    slope = float((fraction @ rise) / (fraction @ fraction))
    if slope <= 0:
        return Absent("the steps are no darker than the bare paper")
    miss = float(np.sqrt(np.mean((rise - slope * fraction) ** 2)) / np.sqrt(fraction @ fraction))
    # An error of one in L* moves K/S at the darkest step by its own share.
    tone = float(np.hypot(known[-1][1].u_lab[0] * 0.03, 0.01)) * slope
    return Strength(slope=slope, channel="XYZ"[channel], steps=len(known), u=float(np.hypot(miss, tone)))
