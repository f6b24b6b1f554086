"""The candidate that knows spectra: the device's sensitivities recovered from the target, then a map from RGB to
XYZ that is right for the target's patches and, beyond them, for Kubelka–Munk layers of paint (measurement.md 1.4)."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.colour.colour_fit import PATCH_PART, ColourFit, KnownErrors, described
from gelvet.core.capture.colour.correction import CorrectionGrid, tabulate
from gelvet.core.capture.colour.curve_search import least_cost
from gelvet.core.capture.colour.device_prior import device_prior
from gelvet.core.capture.colour.models import ColourModel, perceptual_weights
from gelvet.core.capture.colour.paint_paths import PaintPaths, paint_paths, prepare_paint_paths
from gelvet.core.capture.colour.paint_prior import paint_prior
from gelvet.core.capture.colour.patch_fit import fitted_to_patches, patch_weights, perceptual_design
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.sensitivities import DRAWS, Sensitivities, recover_sensitivities
from gelvet.core.capture.colour.tone_curve import ToneCurve, curve_of, stiffness
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_xyz, lightness, xyz_to_lab
from gelvet.core.colour.spectra import observer_d50

NAME, NAME_OF_GUESSED = "spectral-prior", "guessed-spectra"
_EXPANSION = "root-polynomial-3"
_SMOOTHNESS = 0.01
# How stiff the tone curve is: spectra tell more of it than colours do. Above the brightest patch nothing else holds it: softer, it bent
# there for a tenth of a percent of misfit, and dim linear pictures had paper that read 2 % too light (decision 0030).
_BEND_COST = 1.0
# Relative error of a reading that weighs like one ΔE; readings below the floor are judged against it.
_RELATIVE_UNIT, _DARK_FLOOR = 0.02, 0.02
# Weight of the mean squared error over the prior against that over the patches.
_PRIOR_WEIGHT = 1.0
_FOLDS = 6
_DARKEST = 1e-4
# The folds only judge the candidate: a part of the prior will do for them.
_FOLD_STRIDE = 4
# Where the patches' spectra are guessed, so is the device: in trials errors on paints are this much larger than it makes them.
_GUESSED_STRETCH = 1.4


@dataclass(frozen=True, slots=True, kw_only=True)
class SpectralFit:
    """`fit` and how far, in L*, the light of patches left out lies from what the device of the others would read."""

    fit: ColourFit
    misread_l: float


def fit_with_spectra(readings: PatchReadings, plain: ColourFit) -> SpectralFit:
    """Tone curve and model from the patches' spectra, tempered by what a model like the `plain` one, which knows the patches
    alone, makes of them on the same tone curve; `readings.spectra` must be given."""
    if readings.spectra is None or readings.wavelengths_nm is None:
        raise ValueError("spectra are needed")
    tone = tone_by_spectra(readings, plain.tone)
    rgb = light_of(readings, tone)
    sensed = _sensed(readings, rgb, np.ones(len(rgb), dtype=bool))
    trained = _train(readings, rgb, sensed)
    left_over, inks = trained.left_over(), fitted_to_patches(readings, tone, plain.model.name)
    own = trained.corrected(left_over)
    left_out, misread = np.empty_like(readings.xyz), np.empty_like(rgb)
    for fold in range(_FOLDS):
        out = np.arange(len(rgb)) % _FOLDS == fold
        partial = _sensed(readings, rgb, ~out)
        fold_trained = _train(readings, rgb, partial, _FOLD_STRIDE)
        left_out[out] = fold_trained.corrected(fold_trained.left_over()).to_xyz(rgb[out])
        expected = np.maximum(readings.spectra[out] @ partial.sensitivities.likeliest, 0)
        misread[out] = lightness(100 * expected) - lightness(100 * rgb[out])
    share = _share_of(inks, described(readings, tone, own, left_out), sensed)
    counted = share.of(rgb)
    left_out = left_out ** (1 - counted) * lab_to_xyz(inks.reference_lab + inks.cross_validated_lab) ** counted
    model = trained.corrected(trained.toward(left_over, inks.model, share))
    paths = _paths(own, sensed, share)
    fit = replace(described(readings, tone, model, left_out), on_paints=_errors(model, sensed), paths=paths)
    return SpectralFit(fit=fit, misread_l=float(np.abs(misread).mean()))


def judged_on_paints(fit: ColourFit, readings: PatchReadings) -> ColourFit:
    """Another fit with what its model gets wrong on paints, seen through the sensitivities that the target shows."""
    rgb = light_of(readings, fit.tone)
    sensed = _sensed(readings, rgb, np.ones(len(rgb), dtype=bool))
    return replace(fit, on_paints=_errors(fit.model, sensed), paths=_paths(fit.model, sensed))


def tone_by_spectra(readings: PatchReadings, start: ToneCurve) -> ToneCurve:
    """The curve for which the readings are linear in the spectra, which they are in any honest device; `readings.spectra` must be given."""
    spectra = np.asarray(readings.spectra)
    bends = _bends(spectra.shape[1])

    def misses(parameters: Floats) -> Floats:
        rgb = light_of(readings, curve_of(parameters))
        missed = [_missed(spectra, rgb[..., c], bends) for c in range(3)]
        return np.concatenate([*missed, stiffness(parameters, _BEND_COST)], axis=-1)

    return least_cost(misses, start, f_scale=2.0, most_steps=25)[0]


def prepare_for_spectra(wavelengths_nm: Floats) -> None:
    """Makes the samples of paints and devices and loads the solver, which takes a while, before they are needed."""
    import scipy.optimize  # noqa: F401

    paint_prior(tuple(wavelengths_nm.tolist()))
    device_prior(tuple(wavelengths_nm.tolist()))
    prepare_paint_paths(wavelengths_nm)


def _bends(bands: int) -> Floats:
    return np.asarray(np.diff(np.eye(bands), 2, axis=0) * bands * _SMOOTHNESS)


def _missed(spectra: Floats, light: Floats, bends: Floats) -> Floats:
    """What the smooth sensitivities that come nearest miss of the `light` (..., n), in units of about one ΔE."""
    weight = 1 / ((light + _DARK_FLOOR) * _RELATIVE_UNIT)
    design, target = spectra * weight[..., None], (light * weight)[..., None]
    across, penalty = design.swapaxes(-1, -2), bends / _RELATIVE_UNIT
    solution = np.linalg.solve(across @ design + penalty.T @ penalty, across @ target)
    return np.asarray((design @ solution - target)[..., 0])


@dataclass(frozen=True, slots=True, kw_only=True)
class _Sensed:
    """The device as the used patches show it."""

    used: Mask
    nm: Floats
    sensitivities: Sensitivities
    stretch: float = 1.0  # how much larger errors on paints are than these sensitivities make them

    @property
    def prior(self) -> Floats:
        """Reflectance (9000, m) of the sample of paints."""
        return paint_prior(tuple(self.nm.tolist()))


@dataclass(frozen=True, slots=True)
class _Share:
    """How much the model of the inks counts at each node of device light: the grid's `log_ratio` holds it three times."""

    grid: CorrectionGrid

    def of(self, rgb: Floats) -> Floats:
        """The share (..., 1), 0 to 1, at linear `rgb` (..., 3)."""
        return np.log(self.grid.factor(rgb))[..., :1]


def _share_of(inks: ColourFit, own: ColourFit, sensed: _Sensed) -> _Share:
    """Each model counts by the inverse square of its variance: what it gets wrong on left-out patches, and on the sample's paints
    of like device colour. The sample's paints are not the card's, nor are the inks; what the two models err by has
    much in common where it is large, so that the better one counts more than for independent errors."""
    light = np.maximum(sensed.prior @ sensed.sensitivities.likeliest, _DARKEST)
    squares = np.stack([_errors(fit.model, sensed).de00 ** 2 for fit in (own, inks)], axis=-1)
    usual = squares.mean(axis=0)
    local = tabulate(light, np.column_stack([squares - usual, np.zeros(len(light))])).log_ratio[..., :2] + usual
    left_out = [(PATCH_PART * _rms(fit.cross_validated_de00)) ** 2 for fit in (own, inks)]
    variance = np.maximum(local, 0) + left_out
    weight = np.square(variance)[..., ::-1]
    share = weight[..., 1:] / weight.sum(axis=-1, keepdims=True)
    return _Share(CorrectionGrid(np.repeat(share, 3, axis=-1).astype(np.float32)))


def _rms(errors: Floats) -> float:
    return float(np.sqrt(np.mean(errors**2)))


def _sensed(readings: PatchReadings, rgb: Floats, used: Mask) -> _Sensed:
    nm = np.asarray(readings.wavelengths_nm)
    sensitivities = recover_sensitivities(np.asarray(readings.spectra)[used], rgb[used], nm)
    return _Sensed(used=used, nm=nm, sensitivities=sensitivities, stretch=_GUESSED_STRETCH if readings.guessed else 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Trained:
    """A global model, and the samples (n, 3) of device light and XYZ on which it was trained."""

    overall: ColourModel
    light: Floats
    xyz: Floats

    def left_over(self) -> CorrectionGrid:
        """What the global model leaves over of its samples."""
        return tabulate(self.light, _log_ratio(self.xyz, self.overall.to_xyz(self.light)))

    def toward(self, own: CorrectionGrid, other: ColourModel, share: _Share) -> CorrectionGrid:
        """What makes the global model the geometric mean of that with its `own` correction and the `other` one, by its `share`."""
        others = tabulate(self.light, _log_ratio(other.to_xyz(self.light), self.overall.to_xyz(self.light)))
        part = share.grid.log_ratio
        return CorrectionGrid((1 - part) * own.log_ratio + part * others.log_ratio)

    def corrected(self, grid: CorrectionGrid) -> ColourModel:
        return replace(self.overall, correction=grid)


def _train(readings: PatchReadings, rgb: Floats, sensed: _Sensed, stride: int = 1) -> _Trained:
    """Least squares over the used patches and the prior's paints together, each as a mean."""
    prior = sensed.prior[::stride]
    prior_rgb = np.maximum(prior @ sensed.sensitivities.likeliest, _DARKEST)
    prior_xyz = prior @ observer_d50(sensed.nm)
    used = sensed.used
    gram, moment = _moments(rgb[used], readings.xyz[used], patch_weights(readings.xyz[used]))
    prior_gram, prior_moment = _moments(prior_rgb, prior_xyz, np.ones(len(prior)))
    gram, moment = gram + _PRIOR_WEIGHT * prior_gram, moment + _PRIOR_WEIGHT * prior_moment
    gram += 1e-9 * np.diag(gram).mean() * np.eye(len(gram))
    return _Trained(
        overall=ColourModel(_EXPANSION, np.linalg.solve(gram, moment).reshape(-1, 3), NAME_OF_GUESSED if readings.guessed else NAME),
        light=np.concatenate([prior_rgb, rgb[used]]),
        xyz=np.concatenate([prior_xyz, readings.xyz[used]]),
    )


def _paths(model: ColourModel, sensed: _Sensed, share: _Share | None = None) -> PaintPaths:
    """What `model` gets wrong along whole paints, as far as it counts where another has a `share`."""
    paths = paint_paths(model, sensed.sensitivities.likeliest, sensed.nm)
    return paths if share is None else paths.weighing(1 - share.of(paths.seen**3))


def _errors(model: ColourModel, sensed: _Sensed) -> KnownErrors:
    """What the model gets wrong on the prior's paints, filed under the colour that it gives. The paints are dealt out to the
    devices that the readings leave possible, so that what is not known of the device counts too."""
    prior = sensed.prior
    rgb = np.empty((len(prior), 3))
    for turn, device in enumerate(sensed.sensitivities.draws):
        rgb[turn::DRAWS] = np.maximum(prior[turn::DRAWS] @ device, _DARKEST)
    predicted, true = xyz_to_lab(model.to_xyz(rgb)), xyz_to_lab(prior @ observer_d50(sensed.nm))
    return KnownErrors(lab=predicted, de00=sensed.stretch * ciede2000(predicted, true), error_lab=sensed.stretch * (predicted - true))


def _log_ratio(xyz: Floats, predicted: Floats) -> Floats:
    """Logarithm (n, 3) of what a model is to be multiplied with; its wildest failures are cut."""
    return np.clip(np.log(np.maximum(xyz, 1e-3) / predicted), -0.7, 0.7)


def _moments(rgb: Floats, xyz: Floats, scale: Floats) -> tuple[Floats, Floats]:
    weights = perceptual_weights(xyz) * scale[:, None, None]
    design = perceptual_design(rgb, _EXPANSION, weights)
    target = np.einsum("nij,nj->ni", weights, xyz).ravel()
    return design.T @ design / len(rgb), design.T @ target / len(rgb)
