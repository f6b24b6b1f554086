"""A device's tone curve: a monotone map from code values to linear light, unknown beforehand."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats

KNOTS = 8
# With the logarithm of the slope given at knots spaced evenly in log(code + TOE), every gamma curve and the
# display standard's curve are nearly straight lines, so that smoothness costs a real device nothing.
TOE = 0.04
_STEEPEST = 14.0
_GRID = np.linspace(0, 1, 1025)
_POSITION = (np.log(_GRID + TOE) - np.log(TOE)) / (np.log(1 + TOE) - np.log(TOE)) * (KNOTS - 1)
_CELL = np.clip(_POSITION.astype(int), 0, KNOTS - 2)
_SHARE = _POSITION - _CELL


@dataclass(frozen=True, slots=True)
class ToneCurve:
    """`log_slopes` (8,) at the knots; `offset` is the light that the device adds at black (flare), about 0."""

    log_slopes: Floats
    offset: float = 0.0

    def table(self) -> Floats:
        """Linear light (1025,) at evenly spaced code values 0 to 1; 1 at full scale before the offset."""
        # No device's curve is a millionth as steep in one place as in another: a fit that strays so far must still be finite.
        steepness = np.clip(self.log_slopes, -_STEEPEST, _STEEPEST)
        slopes = np.exp(steepness[_CELL] * (1 - _SHARE) + steepness[_CELL + 1] * _SHARE)
        steps = (slopes[1:] + slopes[:-1]) / 2
        total = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(total / total[-1] - self.offset)

    def linearise(self, code: Floats) -> Floats:
        """Linear light of code values 0 to 1, any shape."""
        return np.interp(code, _GRID, self.table())

    def lookup(self, levels: int) -> Floats:
        """Linear light (levels,) float32 for each stored integer."""
        return np.interp(np.linspace(0, 1, levels), _GRID, self.table()).astype(np.float32)


def power_curve(gamma: float) -> ToneCurve:
    """The curve code ** gamma, as a start."""
    knots = np.exp(np.linspace(np.log(TOE), np.log(1 + TOE), KNOTS)) - TOE
    return ToneCurve((gamma - 1) * np.log(knots + TOE))
