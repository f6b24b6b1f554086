"""Neutral patches alone: they give the tone curve and the white, and nothing of hues. The tier `grey` rests on this."""

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.colour_fit import ColourFit, described
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import PARAMETERS, ToneCurve, curve_of, power_curve, stiffness
from gelvet.core.colour.spaces import XYZ_D50_FROM_SRGB, lightness, xyz_to_lab

NAME = "neutrals"
MINIMUM_NEUTRALS = 4
NEUTRAL_CHROMA = 6.0
# Few greys leave the curve free between them: it must be smooth.
_BEND_COST = 2.5


def neutral_patches(xyz: Floats) -> Mask:
    """Which colours (n, 3) are grey."""
    lab = xyz_to_lab(xyz)
    return np.asarray(np.hypot(lab[:, 1], lab[:, 2]) < NEUTRAL_CHROMA)


def fit_grey(readings: PatchReadings) -> ColourFit:
    """The fit from neutral `readings` alone; hues are those of a display's primaries, an assumption that the tier says."""
    tone, gain = _solve(readings, np.ones(len(readings.code), dtype=bool))
    left_out = np.empty_like(readings.xyz)
    for i in range(len(readings.code)):
        others = np.arange(len(readings.code)) != i
        partial, partial_gain = _solve(readings, others)
        left_out[i] = _model(partial_gain).to_xyz(light_of(readings, partial)[i : i + 1])[0]
    return described(readings, tone, _model(gain), np.maximum(left_out, 1e-3))


def _model(gain: Floats) -> ColourModel:
    return ColourModel("linear", np.diag(gain) @ XYZ_D50_FROM_SRGB.T, NAME)


def _solve(readings: PatchReadings, used: Mask) -> tuple[ToneCurve, Floats]:
    """Tone curve and the factor (3,) on each channel that make the greys as light as they are known to be."""
    from scipy.optimize import least_squares

    greys = readings.only(used)
    wanted = lightness(greys.xyz[:, 1])[:, None]

    def cost(parameters: Floats) -> Floats:
        light = light_of(greys, curve_of(parameters[:PARAMETERS]))
        misses = lightness(100 * light * np.exp(parameters[PARAMETERS:])) - wanted
        return np.concatenate([misses.ravel(), stiffness(parameters[:PARAMETERS], _BEND_COST)])

    starts = [np.concatenate([power_curve(gamma).parameters, np.zeros(3)]) for gamma in (1.0, 2.2)]
    fits = [least_squares(cost, start, x_scale="jac", max_nfev=60) for start in starts]
    best = min(fits, key=lambda fit: float(fit.cost))
    return curve_of(best.x[:PARAMETERS]), np.exp(best.x[PARAMETERS:])
