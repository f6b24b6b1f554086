"""The tone curve of least cost."""

from collections.abc import Callable

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.tone_curve import ToneCurve, curve_of

# As small as differences can be told from rounding, as ever for differences to one side.
_STEP = np.sqrt(np.finfo(float).eps)


def least_cost(misses: Callable[[Floats], Floats], start: ToneCurve, *, f_scale: float, most_steps: int) -> tuple[ToneCurve, float]:
    """The curve and its cost, sought from `start` on, large misses counting less (soft L1 beyond `f_scale`).

    `misses` (..., m) of parameters (..., p) takes many curves at once: the slopes are differences between curves that are tried together,
    since one curve costs hardly less than a dozen.
    """
    from scipy.optimize import least_squares

    def slopes(parameters: Floats) -> Floats:
        steps = _STEP * np.copysign(np.maximum(np.abs(parameters), 1), parameters)
        tried = np.vstack([parameters, parameters + np.diag(steps)])
        missed = misses(tried)
        return np.asarray((missed[1:] - missed[0]).T / np.diag(tried[1:] - tried[0]))

    found = least_squares(misses, start.parameters, slopes, x_scale="jac", loss="soft_l1", f_scale=f_scale, max_nfev=most_steps)
    return curve_of(found.x), float(found.cost)
