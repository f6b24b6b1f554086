"""The best colour model for a capture, picked by leave-one-out CIEDE2000."""

from dataclasses import replace

import numpy as np

from gelvet.core.capture.colour.colour_fit import ColourFit
from gelvet.core.capture.colour.likely_spectra import LIKELY_NM, likely_spectra
from gelvet.core.capture.colour.models import EXPANSIONS
from gelvet.core.capture.colour.patch_fit import fitted_candidate
from gelvet.core.capture.colour.readings import PatchReadings
from gelvet.core.capture.colour.spectral_fit import fit_with_spectra, judged_on_paints, tone_by_spectra
from gelvet.core.capture.colour.tone_curve import ToneCurve

SPECTRAL_BENEFIT = 1.35
# How far, in L*, the device that the spectra show may misread left-out patches and still be known well.
WELL_READ_L = 0.5
# An ink's colour guessed as a paint's errs by a few ΔE00; by more than this, in the mean, the spectra are not these patches'.
STRANGE_DE00 = 8.0


def fit_colour(readings: PatchReadings, start: ToneCurve) -> ColourFit:
    """The best candidate, each with its own tone curve, sought from `start` on."""
    plain = _best_of_patches(readings, start)
    if readings.spectra is None:
        readings = replace(readings, wavelengths_nm=LIKELY_NM, spectra=likely_spectra(readings.xyz), guessed=True)
    # Inks on a target say little about paints beyond them, and nothing where they are few: a model that knows no more than
    # they do may still win on them. Where the device that the spectra show reads the patches as they are, it knows better.
    spectral = fit_with_spectra(readings, plain)
    if spectral.fit.cross_validated_de00.mean() > STRANGE_DE00:
        return plain
    well_read = not readings.guessed and spectral.misread_l <= WELL_READ_L
    if well_read or _score(spectral.fit) <= SPECTRAL_BENEFIT * _score(plain):
        return replace(spectral.fit, plain_at_patches=plain.at_patches)
    return judged_on_paints(plain, readings)


def tone_in_light(readings: PatchReadings, start: ToneCurve) -> ToneCurve:
    """The curve alone, sought from `start` on, now that the light on the patches is known."""
    return _best_of_patches(readings, start).tone if readings.spectra is None else tone_by_spectra(readings, start)


def _best_of_patches(readings: PatchReadings, start: ToneCurve) -> ColourFit:
    """The best of the models that know the patches alone."""
    return min((fitted_candidate(readings, name, [start]) for name in _affordable(len(readings.code))), key=_score)


def _affordable(patches: int) -> list[str]:
    """Models with clearly fewer terms than patches."""
    terms = {"linear": 3, "root-polynomial-2": 6, "root-polynomial-3": 13}
    return [name for name in EXPANSIONS if patches >= 1.6 * terms[name] + 3]


def _score(fit: ColourFit) -> float:
    """Mean and tail both count: a model that fails on a few vivid colours is no good."""
    return float(fit.cross_validated_de00.mean() + 0.5 * np.percentile(fit.cross_validated_de00, 90))
