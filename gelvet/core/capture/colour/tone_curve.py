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
# The highest knots stand far apart, and cameras bend their curves between them, about so.
_TOWARD_WHITE = _GRID**5
# What an offset costs a fit, and a shoulder of one, the latter in what a bend of one does.
_OFFSET_COST, _SHOULDER_COST = 1 / 0.004, 0.4
PARAMETERS = KNOTS + 2


@dataclass(frozen=True, slots=True)
class ToneCurve:
    """`log_slopes` (8,) at the knots; `offset` is the light that the device adds at black (flare), about 0; `shoulder` is by how much the
    logarithm of the slope rises toward full scale besides."""

    log_slopes: Floats
    offset: float = 0.0
    shoulder: float = 0.0

    @property
    def parameters(self) -> Floats:
        """(10,): what a fit varies."""
        return np.append(self.log_slopes, [self.offset, self.shoulder])

    def table(self) -> Floats:
        """Linear light (1025,) at evenly spaced code values 0 to 1; 1 at full scale before the offset."""
        # No device's curve is a millionth as steep in one place as in another: a fit that strays so far must still be finite.
        steepness = np.clip(self.log_slopes, -_STEEPEST, _STEEPEST)
        shoulder = float(np.clip(self.shoulder, -_STEEPEST, _STEEPEST)) * _TOWARD_WHITE
        slopes = np.exp(steepness[_CELL] * (1 - _SHARE) + steepness[_CELL + 1] * _SHARE + shoulder)
        steps = (slopes[1:] + slopes[:-1]) / 2
        total = np.concatenate([[0.0], np.cumsum(steps)])
        return np.asarray(total / total[-1] - self.offset)

    def linearise(self, code: Floats) -> Floats:
        """Linear light of code values 0 to 1, any shape."""
        return np.interp(code, _GRID, self.table())

    def lookup(self, levels: int) -> Floats:
        """Linear light (levels,) float32 for each stored integer."""
        return np.interp(np.linspace(0, 1, levels), _GRID, self.table()).astype(np.float32)


def curve_of(parameters: Floats) -> ToneCurve:
    """The curve that a fit has come to."""
    return ToneCurve(parameters[:KNOTS], float(parameters[KNOTS]), float(parameters[KNOTS + 1]))


def stiffness(parameters: Floats, bend_cost: float) -> Floats:
    """What a curve's departures from an ordinary one cost a fit (8,): each bend of its log-slope, its offset and its shoulder."""
    bends = np.diff(parameters[:KNOTS], 2) * bend_cost
    return np.append(bends, parameters[KNOTS : KNOTS + 2] * [_OFFSET_COST, _SHOULDER_COST * bend_cost])


def power_curve(gamma: float) -> ToneCurve:
    """The curve code ** gamma, as a start."""
    knots = np.exp(np.linspace(np.log(TOE), np.log(1 + TOE), KNOTS)) - TOE
    return ToneCurve((gamma - 1) * np.log(knots + TOE))
