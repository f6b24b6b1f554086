"""Hiding over a black line: the veil, its class, contrast ratio (measurement.md 7)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.quantities.layers import Hiding
from gelvet.core.measure.uncertainty import light, light_u
from gelvet.core.measure.values import Absent, ZoneColour

_MINIMUM_CONTRAST, _LEAST_U = 0.2, 0.001


def hiding(paper: ZoneColour, ink: ZoneColour, over: ZoneColour, beside: ZoneColour) -> Hiding | Absent:
    """Figures of the same paint over ink and over paper."""
    contrast = paper.xyz - ink.xyz
    if np.any(contrast < _MINIMUM_CONTRAST * paper.xyz):
        return Absent("the ink line is missing or too pale to judge hiding on")
    transmitted = (beside.xyz - over.xyz) / contrast
    own = (over.xyz - transmitted * ink.xyz) / paper.xyz
    paper_l, ink_l, over_l, beside_l = (float(z.lab[0]) for z in (paper, ink, over, beside))
    channel, clearest = int(np.argmax(own)), int(np.argmax(transmitted))
    veil = float(max(own[channel], 0.0))
    ratio, hides = float(over.xyz[1] / beside.xyz[1]), 1 - (beside_l - over_l) / (paper_l - ink_l)
    return Hiding(
        veil=veil,
        contrast_ratio=ratio,
        contrast_ratio_u=ratio * float(np.hypot(light_u(over, 1), light_u(beside, 1))),
        hiding=hides,
        hiding_u=_over_contrast_u(paper, ink, over, beside, hides),
        transparency=USUAL.transparency(veil, float(transmitted.max())),
        u=float(np.hypot(_own_light_u(over, channel), _LEAST_U)),
        transmits=float(transmitted[clearest]),
        transmits_u=float(np.hypot(_own_light_u(over, clearest), _own_light_u(beside, clearest)) / _share_of_white(contrast, clearest)),
    )


def _own_light_u(zone: ZoneColour, channel: int) -> float:
    """Of X, Y or Z, as a share of white's."""
    return light(zone, channel) * light_u(zone, channel)


def _share_of_white(xyz: Floats, channel: int) -> float:
    return float(xyz[channel] / WHITE_D50[channel])


def _over_contrast_u(paper: ZoneColour, ink: ZoneColour, over: ZoneColour, beside: ZoneColour, hides: float) -> float:
    """Of the share of the contrast of paper and ink in L* that the paint takes."""
    above, below = (np.hypot(*(z.u_lab[0] for z in pair)) for pair in ((over, beside), (paper, ink)))
    return float(np.hypot(above, (1 - hides) * below) / (paper.lab[0] - ink.lab[0]))
