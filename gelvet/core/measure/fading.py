"""How far the exposed half of a strip has moved from the covered one (measurement.md 10)."""

import numpy as np

from gelvet.core.colour.difference import ciede2000
from gelvet.core.measure.quantities.colour import Fading
from gelvet.core.measure.values import ZoneColour

# Upper limits of ΔE*ab for categories I to IV; beyond the last is V. For a bench's own screening only.
CATEGORY_LIMITS = (4.0, 8.0, 16.0, 24.0)
# The colour errors of two zones of one paint in one capture have about half in common (docs/how-it-works/uncertainty.md).
_COMMON = 0.5
CATEGORIES = ("I", "II", "III", "IV", "V")


def fading(covered: ZoneColour, exposed: ZoneColour, hours: float) -> Fading:
    """`hours` of light that the exposed zone has had."""
    step = exposed.lab - covered.lab
    delta_e_ab = float((step**2).sum() ** 0.5)
    return Fading(
        delta_e_ab=delta_e_ab,
        delta_e00=float(ciede2000(covered.lab, exposed.lab)),
        delta_l=float(step[0]),
        hours=hours,
        category=CATEGORIES[sum(delta_e_ab >= limit for limit in CATEGORY_LIMITS)],
        u=float(np.sqrt(covered.u**2 + exposed.u**2 - 2 * _COMMON * covered.u * exposed.u)),
    )
