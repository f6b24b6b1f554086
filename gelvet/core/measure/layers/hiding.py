"""Hiding over a black line: the veil, its class, contrast ratio (measurement.md 7)."""

import numpy as np

from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.quantities.layers import Hiding
from gelvet.core.measure.values import Absent, ZoneColour

_MINIMUM_CONTRAST, _LEAST_U = 0.2, 0.001


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
    return Hiding(
        veil=veil,
        contrast_ratio=float(over.xyz[1] / beside.xyz[1]),
        hiding=1 - (beside_l - over_l) / (paper_l - ink_l),
        transparency=USUAL.transparency(veil, float(transmitted.max())),
        u=float(np.hypot(_light_u(over, channel), _LEAST_U)),
        transmits=float(transmitted.max()),
        glinting_veil=None if glints is None else veil + glints,
        wash=wash,
    )


def _light_u(zone: ZoneColour, channel: int) -> float:
    """Standard uncertainty of X, Y or Z as a share of white's, from that of L*, a* and b* (CIE 15:2004, equations 8.3 to 8.9)."""
    in_lightness, in_a, in_b = (float(u) for u in zone.u_lab)
    aside = (in_a / 500, 0.0, in_b / 200)[channel]
    light = float(zone.xyz[channel] / WHITE_D50[channel])
    return float(3 * light ** (2 / 3) * np.hypot(in_lightness / 116, aside))
