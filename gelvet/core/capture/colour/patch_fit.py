"""Tone curve and model fitted together to the patches alone, and what such a model makes of a patch that is left out."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.colour_fit import ColourFit, described
from gelvet.core.capture.colour.curve_search import least_cost
from gelvet.core.capture.colour.models import EXPANSIONS, ColourModel, perceptual_weights
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import ToneCurve, curve_of, power_curve, stiffness
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab

# Neutral patches carry the tone curve and the paper: they count more.
_NEUTRAL_CHROMA = 6.0
_NEUTRAL_WEIGHT = 1.5
# How stiff the tone curve is: one unit of bend in the log-slope costs as much as this many ΔE.
_BEND_COST = 1.2
# A curve with tints and a model of the second degree have so many terms; so many readings more tell whether there are tints, by F for
# the four of them: honest devices stay below 4 for what such a model gets wrong, and tints of 3 % come to over 100.
_TERMS_WITH_TINTS, _FEWEST_SPARE, _SIGNIFICANCE = 32, 10, 8.0
RIDGES = (1e-4, 3e-3, 3e-2, 0.3)


def fit_tone(readings: PatchReadings) -> ToneCurve:
    """A tone curve from nothing, good enough for placing tags and judging the light."""
    name = "root-polynomial-2" if len(readings.code) >= 13 else "linear"
    plain, left_over = _fitted_curve(readings, name, [power_curve(1.0), power_curve(2.2)])
    spare = 3 * len(readings.code) - _TERMS_WITH_TINTS
    if spare < _FEWEST_SPARE:
        return plain
    tinted, left = _fitted_curve(readings, name, [plain.tinted])
    return tinted if (left_over - left) * spare > _SIGNIFICANCE * 4 * left else plain


def fitted_candidate(readings: PatchReadings, name: str, starts: list[ToneCurve]) -> ColourFit:
    """The model `name` on its own tone curve, sought from the `starts` on."""
    return fitted_to_patches(readings, _fitted_curve(readings, name, starts)[0], name)


def _fitted_curve(readings: PatchReadings, name: str, starts: list[ToneCurve]) -> tuple[ToneCurve, float]:
    """The curve, and what it leaves over of the patches."""
    weights = perceptual_patch_weights(readings)
    target = np.einsum("nij,nj->ni", weights, readings.xyz).ravel()

    def misses(parameters: Floats) -> Floats:
        design = perceptual_design(light_of(readings, curve_of(parameters)), name, weights)
        solution = ridge_solve(design, target, RIDGES[0])
        left = (design @ solution[..., None])[..., 0] - target
        return np.concatenate([left, stiffness(parameters, _BEND_COST)], axis=-1)

    return min((least_cost(misses, start, f_scale=3.0, most_steps=40) for start in starts), key=lambda found: found[1])


def perceptual_design(rgb: Floats, name: str, weights: Floats) -> Floats:
    """(..., 3n, 3·terms) of `rgb` (..., n, 3): the perceptual error is linear in the coefficients."""
    terms = EXPANSIONS[name](rgb)
    design = weights[..., None, :] * terms[..., None, :, None]
    return np.asarray(design.reshape(*rgb.shape[:-2], 3 * rgb.shape[-2], -1))


def ridge_solve(design: Floats, target: Floats, ridge: float) -> Floats:
    """Coefficients (..., t) of a `design` (..., n, t) that come nearest to the `target` (n,)."""
    across = design.swapaxes(-1, -2)
    gram = across @ design
    scale = np.diagonal(gram, axis1=-2, axis2=-1).mean(axis=-1)[..., None, None]
    return np.linalg.solve(gram + ridge * 1e-3 * scale * np.eye(gram.shape[-1]), (across @ target)[..., None])[..., 0]


def fitted_to_patches(readings: PatchReadings, tone: ToneCurve, name: str) -> ColourFit:
    """The model `name` of the patches alone on a known tone curve, its ridge chosen by leave-one-out, with both kinds of residual."""
    weights = perceptual_patch_weights(readings)
    rgb = light_of(readings, tone)
    design = perceptual_design(rgb, name, weights)
    target = np.einsum("nij,nj->ni", weights, readings.xyz).ravel()
    reference_lab = xyz_to_lab(readings.xyz)
    options = []
    for ridge in RIDGES:
        solution = ridge_solve(design, target, ridge)
        left_out = _leave_one_out_xyz(design, target, solution, ridge, weights, readings.xyz)
        options.append((float(ciede2000(xyz_to_lab(left_out), reference_lab).mean()), ridge, solution, left_out))
    _, _, solution, left_out = min(options, key=lambda o: o[0])
    model = ColourModel(name, solution.reshape(-1, 3))
    return described(readings, tone, model, left_out)


def _leave_one_out_xyz(design: Floats, target: Floats, solution: Floats, ridge: float, weights: Floats, xyz: Floats) -> Floats:
    """XYZ (n, 3) predicted for each patch by a fit without it, from the hat matrix: e₋ᵢ = (I - Hᵢᵢ)⁻¹ eᵢ."""
    gram = design.T @ design
    inverse = np.linalg.inv(gram + ridge * 1e-3 * np.diag(gram).mean() * np.eye(len(gram)))
    residual = (design @ solution - target).reshape(-1, 3)
    predicted = np.empty_like(xyz)
    for i in range(len(xyz)):
        rows = design[3 * i : 3 * i + 3]
        hat = rows @ inverse @ rows.T
        error = np.linalg.solve(np.eye(3) - hat, residual[i])
        predicted[i] = xyz[i] + np.linalg.solve(weights[i], error)
    return np.clip(predicted, 1e-3, 2 * WHITE_D50)


def perceptual_patch_weights(readings: PatchReadings) -> Floats:
    return perceptual_weights(readings.xyz) * patch_weights(readings.xyz)[:, None, None]


def patch_weights(xyz: Floats) -> Floats:
    lab = xyz_to_lab(xyz)
    return np.where(np.hypot(lab[:, 1], lab[:, 2]) < _NEUTRAL_CHROMA, _NEUTRAL_WEIGHT, 1.0)
