"""Drying shift: what the colours do between wet and dry (measurement.md 9)."""

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_lch
from gelvet.core.measure.dilution.path import wash_moves
from gelvet.core.measure.quantities.colour import DilutionPath, Drying, Shift
from gelvet.core.measure.values import Absent

NOT_WET = "the card was not captured wet as well"
_GREY = 4.0
_PATHS_U = 0.15


def drying(wet: DilutionPath | Absent | None, dry: DilutionPath | Absent, paper: Floats, *, apart: float = 0.0) -> Drying | Absent:
    """From `wet` to `dry`, at masstone and wash, over `paper` (XYZ, (3,)); `apart` is by how much (ΔE00) the two shots see what did
    not change differently."""
    if wet is None:
        return Absent(NOT_WET)
    if isinstance(wet, Absent):
        return Absent(f"wet: {wet.reason}")
    if isinstance(dry, Absent):
        return dry
    # One device errs alike on nearly one colour: what is left is the zone's own spread, and what the device itself moved by.
    spread = np.hypot(wet.masstone.u_spatial, dry.masstone.u_spatial) + _PATHS_U
    u_masstone = float(np.hypot(spread, apart))
    moved = [ciede2000(path.wash_lab, path.wash_lab + wash_moves(path, paper)) for path in (wet, dry)]
    u_wash = float(np.hypot(u_masstone, np.hypot(*moved)))
    return Drying(
        masstone=_shift(wet.masstone.lab, dry.masstone.lab, u_masstone),
        wash=_shift(wet.wash_lab, dry.wash_lab, u_wash),
        u=max(u_masstone, u_wash),
    )


def _shift(wet: Floats, dry: Floats, u: float) -> Shift:
    one, other = lab_to_lch(wet), lab_to_lch(dry)
    turned = turn_deg(one[2], other[2]) if min(one[1], other[1]) > _GREY else None
    return Shift(
        delta_l=float(dry[0] - wet[0]), delta_c=float(other[1] - one[1]), delta_h=turned, delta_e00=float(ciede2000(wet, dry)), u=u
    )
