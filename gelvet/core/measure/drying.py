"""Drying shift: what the colours do between wet and dry (measurement.md 9)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.measure.quantities.colour import DilutionPath, Drying, Shift
from gelvet.core.measure.values import Absent

_GREY = 4.0


def drying(wet: DilutionPath | Absent | None, dry: DilutionPath) -> Drying | Absent:
    """From `wet` to `dry`, at masstone and wash."""
    if wet is None:
        return Absent("the card was not captured wet as well")
    if isinstance(wet, Absent):
        return Absent(f"wet: {wet.reason}")
    return Drying(
        masstone=_shift(wet.masstone.lab, dry.masstone.lab),
        wash=_shift(wet.wash_lab, dry.wash_lab),
        # One device errs alike on nearly one colour: what is left is the zone's own spread.
        u=float(np.hypot(wet.masstone.u_spatial, dry.masstone.u_spatial) + 0.15),
    )


def _shift(wet: Floats, dry: Floats) -> Shift:
    one, other = lab_to_lch(wet), lab_to_lch(dry)
    turned = float((other[2] - one[2] + 180) % 360 - 180) if min(one[1], other[1]) > _GREY else None
    return Shift(delta_l=float(dry[0] - wet[0]), delta_c=float(other[1] - one[1]), delta_h=turned, delta_e00=float(ciede2000(wet, dry)))
