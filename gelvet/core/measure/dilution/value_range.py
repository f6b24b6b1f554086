"""Value range: how dark the masstone, how light the wash (measurement.md 3)."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lightness
from gelvet.core.measure.quantities.colour import DilutionPath, ValueRange

# As for hue: in trials the lightness errors of one paint's two ends correlate by about this much.
_SHARED = 0.3


def value_range(path: DilutionPath, paper: Floats, u_masstone_l: float, u_wash_l: float) -> ValueRange:
    """Lightness at both ends of `path` against the bare `paper` (XYZ, (3,))."""
    masstone = float(path.masstone.lab[0])
    wash = float(path.wash_lab[0])
    paper_l = float(lightness(np.asarray(paper[1])))
    return ValueRange(
        masstone_l=masstone, wash_l=wash, span_l=wash - masstone, reach=(paper_l - masstone) / paper_l,
        u=float(np.sqrt(u_masstone_l**2 + u_wash_l**2 - 2 * _SHARED * u_masstone_l * u_wash_l)),
    )  # fmt: skip
