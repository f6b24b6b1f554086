"""Hiding over a black line: the veil, its class, contrast ratio (measurement.md 7)."""

import numpy as np

from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.quantities.layers import Hiding
from gelvet.core.measure.values import Absent, ZoneColour

_MINIMUM_CONTRAST = 0.2


def hiding(
    paper: ZoneColour, ink: ZoneColour, over: ZoneColour, beside: ZoneColour, *, glints: float | None = None, wash: Hiding | None = None
) -> Hiding | Absent:
    """Figures of the same paint over ink and over paper. `glints` is the light of glints over the ink as a share of the
    paper's; `wash` the same figures of a wash."""
    contrast = paper.xyz - ink.xyz
    if np.any(contrast < _MINIMUM_CONTRAST * paper.xyz):
        return Absent("the ink line is missing or too pale to judge hiding on")
    transmitted = (beside.xyz - over.xyz) / contrast
    own = (over.xyz - transmitted * ink.xyz) / paper.xyz
    paper_l, ink_l, over_l, beside_l = (float(z.lab[0]) for z in (paper, ink, over, beside))
    channel = int(np.argmax(own))
    veil = float(max(own[channel], 0.0))
    # One ΔE of error in a dark place moves its luminance factor by dY/dL at that lightness.
    slope = 3 * ((over_l + 16) / 116) ** 2 / 116
    return Hiding(
        veil=veil,
        contrast_ratio=float(over.xyz[1] / beside.xyz[1]),
        hiding=1 - (beside_l - over_l) / (paper_l - ink_l),
        transparency=USUAL.transparency(veil, float(transmitted.max())),
        u=float(np.hypot(over.u * slope, 0.001)),
        transmits=float(transmitted.max()),
        glinting_veil=None if glints is None else veil + glints,
        wash=wash,
    )
