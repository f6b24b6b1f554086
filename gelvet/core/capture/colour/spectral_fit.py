"""The candidate that knows spectra: the device's sensitivities recovered from the target, then a map from RGB to
XYZ that is right for the target's patches and, beyond them, for Kubelka–Munk layers of paint (measurement.md 1.4)."""

from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.correction import tabulate
from gelvet.core.capture.colour.fit import ColourFit, KnownErrors, PatchReadings, described, light_of, patch_weights, perceptual_design
from gelvet.core.capture.colour.models import ColourModel, perceptual_weights
from gelvet.core.capture.colour.paint_paths import PaintPaths, paint_paths, prepare_paint_paths
from gelvet.core.capture.colour.paint_prior import paint_prior
from gelvet.core.capture.colour.tone_curve import KNOTS, ToneCurve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.colour.spectra import observer_d50

NAME = "spectral-prior"
_EXPANSION = "root-polynomial-3"
_SMOOTHNESS = 0.01
# Relative error of a reading that weighs like one ΔE; readings below the floor are judged against it.
_RELATIVE_UNIT, _DARK_FLOOR = 0.02, 0.02
# Weight of the mean squared error over the prior against that over the patches.
_PRIOR_WEIGHT = 1.0
_FOLDS = 6
# The folds only judge the candidate: a part of the prior will do for them.
_FOLD_STRIDE = 4
_MIXED_TIMES = 5.0


def fit_with_spectra(readings: PatchReadings, start: ToneCurve) -> ColourFit:
    """Tone curve and model from the patches' spectra; `readings.spectra` must be given."""
    if readings.spectra is None or readings.wavelengths_nm is None:
        raise ValueError("spectra are needed")
    tone = _fit_tone(readings, start)
    rgb = light_of(readings, tone)
    everything = np.ones(len(rgb), dtype=bool)
    model, samples = _train(readings, rgb, everything)
    model = replace(model, correction=tabulate(*_residuals(model, *samples)))
    on_paints = _errors(model, *samples)
    left_out = np.empty_like(readings.xyz)
    for fold in range(_FOLDS):
        out = np.arange(len(rgb)) % _FOLDS == fold
        partial, samples = _train(readings, rgb, ~out, _FOLD_STRIDE)
        left_out[out] = replace(partial, correction=tabulate(*_residuals(partial, *samples))).to_xyz(rgb[out])
    return replace(described(readings, tone, model, left_out), on_paints=on_paints)


def prepare_for_spectra(wavelengths_nm: Floats) -> None:
    """Makes the samples of paints and loads the solver, which takes a while, before they are needed."""
    import scipy.optimize  # noqa: F401

    paint_prior(tuple(wavelengths_nm.tolist()))
    prepare_paint_paths(wavelengths_nm)


def _fit_tone(readings: PatchReadings, start: ToneCurve) -> ToneCurve:
    """The curve for which the readings are linear in the spectra, which they are in any honest device."""
    from scipy.optimize import least_squares

    spectra = np.asarray(readings.spectra)
    bends = _bends(spectra.shape[1])

    def cost(parameters: Floats) -> Floats:
        rgb = light_of(readings, ToneCurve(parameters[:KNOTS], float(parameters[KNOTS])))
        misses = [_smooth_solve(spectra, rgb[:, c], bends)[1] for c in range(3)]
        bend = np.diff(parameters[:KNOTS], 2) * 0.3
        return np.concatenate([*misses, bend, [parameters[KNOTS] / 0.004]])

    fit = least_squares(cost, np.append(start.log_slopes, start.offset), x_scale="jac", loss="soft_l1", f_scale=2.0, max_nfev=25)
    return ToneCurve(fit.x[:KNOTS], float(fit.x[KNOTS]))


def _bends(bands: int) -> Floats:
    return np.asarray(np.diff(np.eye(bands), 2, axis=0) * bands * _SMOOTHNESS)


def _smooth_solve(spectra: Floats, light: Floats, bends: Floats) -> tuple[Floats, Floats]:
    """Smooth sensitivities (m,) and what they miss (n,), in units of about one ΔE."""
    weight = 1 / ((light + _DARK_FLOOR) * _RELATIVE_UNIT)
    design = spectra * weight[:, None]
    penalty = bends / _RELATIVE_UNIT
    solution = np.linalg.solve(design.T @ design + penalty.T @ penalty, design.T @ (light * weight))
    return solution, design @ solution - light * weight


def sensitivities(spectra: Floats, rgb: Floats) -> Floats:
    """Effective sensitivities (m, 3), smooth: spectra (n, m) @ result ≈ rgb (n, 3).

    A sensor's are not negative; those of a camera that mixes its channels before it stores them may be, and are then
    told by a misfit many times smaller.
    """
    from scipy.optimize import nnls

    bends = _bends(spectra.shape[1])
    columns = []
    for channel in range(3):
        weight = 1 / (rgb[:, channel] + _DARK_FLOOR)
        design = np.vstack([spectra * weight[:, None], bends])
        target = np.concatenate([rgb[:, channel] * weight, np.zeros(len(bends))])
        plain, mixed = nnls(design, target)[0], np.linalg.lstsq(design, target, rcond=None)[0]
        misfits = [float(((design @ s - target) ** 2).sum()) for s in (plain, mixed)]
        columns.append(mixed if misfits[0] > _MIXED_TIMES * misfits[1] else plain)
    return np.stack(columns, axis=1)


def _train(readings: PatchReadings, rgb: Floats, used: Mask, stride: int = 1) -> tuple[ColourModel, tuple[Floats, Floats]]:
    """Least squares over the used patches and the prior's paints together, each as a mean; and the samples (rgb, xyz)."""
    nm = np.asarray(readings.wavelengths_nm)
    prior = paint_prior(tuple(nm.tolist()))[::stride]
    prior_rgb = np.maximum(prior @ sensitivities(np.asarray(readings.spectra)[used], rgb[used]), 1e-4)
    prior_xyz = prior @ observer_d50(nm)
    patch_scale = patch_weights(readings.xyz[used])
    gram, moment = _moments(rgb[used], readings.xyz[used], patch_scale)
    prior_gram, prior_moment = _moments(prior_rgb, prior_xyz, np.ones(len(prior)))
    gram, moment = gram + _PRIOR_WEIGHT * prior_gram, moment + _PRIOR_WEIGHT * prior_moment
    gram += 1e-9 * np.diag(gram).mean() * np.eye(len(gram))
    model = ColourModel(_EXPANSION, np.linalg.solve(gram, moment).reshape(-1, 3), NAME)
    return model, (np.concatenate([prior_rgb, rgb[used]]), np.concatenate([prior_xyz, readings.xyz[used]]))


def paths_of_paints(model: ColourModel, readings: PatchReadings, tone: ToneCurve) -> PaintPaths:
    """What any model gets wrong along the ways of whole paints, seen through the sensitivities that the target shows."""
    nm = np.asarray(readings.wavelengths_nm)
    return paint_paths(model, sensitivities(np.asarray(readings.spectra), light_of(readings, tone)), nm)


def errors_on_paints(model: ColourModel, readings: PatchReadings, tone: ToneCurve) -> KnownErrors:
    """What any model gets wrong on the prior's paints, seen through the sensitivities that the target shows."""
    spectra, nm = np.asarray(readings.spectra), np.asarray(readings.wavelengths_nm)
    prior = paint_prior(tuple(nm.tolist()))
    rgb = np.maximum(prior @ sensitivities(spectra, light_of(readings, tone)), 1e-4)
    return _errors(model, rgb, prior @ observer_d50(nm))


def _errors(model: ColourModel, rgb: Floats, xyz: Floats) -> KnownErrors:
    """What the model gets wrong on the samples, filed under the colour that it gives."""
    predicted, true = xyz_to_lab(model.to_xyz(rgb)), xyz_to_lab(xyz)
    return KnownErrors(lab=predicted, de00=ciede2000(predicted, true), error_lab=predicted - true)


def _residuals(model: ColourModel, rgb: Floats, xyz: Floats) -> tuple[Floats, Floats]:
    """The samples' light and what the model leaves over, as a logarithm; the model's wildest failures are cut."""
    return rgb, np.clip(np.log(np.maximum(xyz, 1e-3) / model.to_xyz(rgb)), -0.7, 0.7)


def _moments(rgb: Floats, xyz: Floats, scale: Floats) -> tuple[Floats, Floats]:
    weights = perceptual_weights(xyz) * scale[:, None, None]
    design = perceptual_design(rgb, _EXPANSION, weights)
    target = np.einsum("nij,nj->ni", weights, xyz).ravel()
    return design.T @ design / len(rgb), design.T @ target / len(rgb)
