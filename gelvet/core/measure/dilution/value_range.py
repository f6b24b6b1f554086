"""Value range: how dark the masstone, how light the wash (measurement.md 3)."""

import numpy as np

from gelvet.core.measure.quantities.colour import DilutionPath, ValueRange
from gelvet.core.measure.uncertainty import difference_u
from gelvet.core.measure.values import ZoneColour

# As for hue: in trials the lightness errors of one paint's two ends correlate by about this much.
_SHARED = 0.3


def value_range(path: DilutionPath, paper: ZoneColour, u_masstone_l: float, u_wash_l: float) -> ValueRange:
    """Lightness at both ends of `path` against the bare `paper`."""
    masstone = float(path.masstone.lab[0])
    wash = float(path.wash_lab[0])
    paper_l = float(paper.lab[0])
    reach = (paper_l - masstone) / paper_l
    return ValueRange(
        masstone_l=masstone, wash_l=wash, span_l=wash - masstone, reach=reach,
        reach_u=float(np.hypot(u_masstone_l, (1 - reach) * paper.u_lab[0]) / paper_l),
        u=difference_u(u_masstone_l, u_wash_l, _SHARED),
    )  # fmt: skip
