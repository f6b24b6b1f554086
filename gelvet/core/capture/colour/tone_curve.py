"""A device's tone curve: a monotone map from code values to linear light, unknown beforehand."""

from dataclasses import dataclass, replace

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
# What an offset costs a fit, and a shoulder of one, the latter in what a bend of one does; and a tint's exponent.
_OFFSET_COST, _SHOULDER_COST, _EXPONENT_COST = 1 / 0.004, 0.4, 1 / 0.05
# Beyond these, which no device comes near, light would be infinite somewhere.
_TINTS = -0.9, 3.0
PARAMETERS = KNOTS + 2


@dataclass(frozen=True, slots=True)
class ToneCurve:
    """`log_slopes` (8,) at the knots; `offset` is the light that the device adds at black (flare), about 0; `shoulder` is by how much the
    logarithm of the slope rises toward full scale besides.

    `tints` (2, 2) are what devices do to red and to blue that they do not to green, where they do: light to be added at black, and by
    how much its exponent differs from 1. Many curves may be tried at once: all of these then have more axes before their own."""

    log_slopes: Floats
    offset: float | Floats = 0.0
    shoulder: float | Floats = 0.0
    tints: Floats | None = None

    @property
    def parameters(self) -> Floats:
        """What a fit varies: (10,), or (14,) with tints."""
        plain = np.concatenate([self.log_slopes, np.stack([self.offset, self.shoulder], axis=-1)], axis=-1)
        if self.tints is None:
            return plain
        return np.concatenate([plain, self.tints.reshape(*plain.shape[:-1], -1)], axis=-1)

    @property
    def tinted(self) -> "ToneCurve":
        """The same with tints that do nothing yet, for a fit to vary."""
        return replace(self, tints=np.zeros((2, 2)))

    def table(self) -> Floats:
        """Linear light (..., 1025) at evenly spaced code values 0 to 1; 1 at full scale before the offset."""
        # No device's curve is a millionth as steep in one place as in another: a fit that strays so far must still be finite.
        steepness = np.clip(self.log_slopes, -_STEEPEST, _STEEPEST)
        shoulder = np.clip(self.shoulder, -_STEEPEST, _STEEPEST)[..., None] * _TOWARD_WHITE
        slopes = np.exp(steepness[..., _CELL] * (1 - _SHARE) + steepness[..., _CELL + 1] * _SHARE + shoulder)
        total = np.zeros_like(slopes)
        np.cumsum((slopes[..., 1:] + slopes[..., :-1]) / 2, axis=-1, out=total[..., 1:])
        return np.asarray(total / total[..., -1:] - np.asarray(self.offset)[..., None])

    def linearise(self, code: Floats) -> Floats:
        """Linear light (..., 3) of code values (..., 3), 0 to 1; of many curves, by each of them."""
        place = np.clip(code, 0, 1) * (len(_GRID) - 1)
        cell = np.minimum(place.astype(int), len(_GRID) - 2)
        share = place - cell
        table = self.table()
        light = table[..., cell] * (1 - share) + table[..., cell + 1] * share
        if self.tints is not None:
            among = (..., *(None,) * (code.ndim - 1))  # a number for each curve, beside the code's axes
            for channel, tint in zip((0, 2), np.moveaxis(np.clip(self.tints, *_TINTS), -2, 0), strict=True):
                light[..., channel] = np.maximum(light[..., channel] + tint[..., 0][among], 0) ** (1 + tint[..., 1][among])
        return np.asarray(light)

    def lookup(self, levels: int) -> Floats:
        """Linear light (levels, 3) float32 for each stored integer."""
        return self.linearise(np.repeat(np.linspace(0, 1, levels)[:, None], 3, axis=1)).astype(np.float32)


def curve_of(parameters: Floats) -> ToneCurve:
    """The curve that a fit has come to, of (..., 10) parameters or 14; many curves where there are more axes."""
    tints = parameters[..., PARAMETERS:].reshape(*parameters.shape[:-1], 2, 2) if parameters.shape[-1] > PARAMETERS else None
    return ToneCurve(parameters[..., :KNOTS], parameters[..., KNOTS], parameters[..., KNOTS + 1], tints)


def stiffness(parameters: Floats, bend_cost: float) -> Floats:
    """What a curve's departures from an ordinary one cost a fit (..., 8 or 12): each bend of its log-slope, its offset, its shoulder and
    its tints, of (..., 10 or 14) parameters."""
    bends = np.diff(parameters[..., :KNOTS], 2) * bend_cost
    rest = [_OFFSET_COST, _SHOULDER_COST * bend_cost, *[_OFFSET_COST, _EXPONENT_COST] * ((parameters.shape[-1] - PARAMETERS) // 2)]
    return np.concatenate([bends, parameters[..., KNOTS:] * rest], axis=-1)


def power_curve(gamma: float) -> ToneCurve:
    """The curve code ** gamma, as a start."""
    knots = np.exp(np.linspace(np.log(TOE), np.log(1 + TOE), KNOTS)) - TOE
    return ToneCurve((gamma - 1) * np.log(knots + TOE))
