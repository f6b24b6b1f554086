"""A target whose file holds colours alone: its spectra are guessed, and the device through them."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.colour_fit import ColourFit
from gelvet.core.capture.colour.fit import fit_colour
from gelvet.core.capture.colour.likely_spectra import LIKELY_NM, likely_spectra
from gelvet.core.capture.colour.paint_prior import random_paints
from gelvet.core.capture.colour.patch_fit import fitted_to_patches
from gelvet.core.capture.colour.readings import PatchReadings
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.kubelka_munk import layer_reflectance
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.camera import camera_weights
from gelvet.core.simulate.scanner import device_weights
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, target_spectra

NM = WAVELENGTHS_NM
MASSTONE_TO_WASH = (2.5, 1.5, 0.9, 0.5, 0.25, 0.12)


def colours_alone(spectra: Floats, device: Floats) -> PatchReadings:
    """What a device whose stored values are roots of light reads of patches of known colour."""
    return PatchReadings(code=np.sqrt(spectra @ device), xyz=spectra @ observer_d50(NM), light=np.ones((len(spectra), 3)))


def paints(count: int) -> Floats:
    """Reflectance (count, 6, m) of strange paints at six thicknesses."""
    absorption, scattering, paper, surface = random_paints(tuple(NM.tolist()), count, seed=5)
    layers = [surface + (1 - surface) * layer_reflectance(absorption * t, scattering * t, paper) for t in MASSTONE_TO_WASH]
    return np.stack(layers, axis=1)


def masstone_errors(fit: ColourFit, device: Floats, *, along_paints: bool) -> Floats:
    """CIEDE2000 (60,) of masstones, with or without what is known along whole paints."""
    found = []
    for layers in paints(60):
        light = fit.tone.linearise(np.sqrt(layers @ device))
        factor = fit.paths.correction(light) if along_paints and fit.paths is not None else np.zeros((1, 3))
        lab = xyz_to_lab(fit.model.to_xyz(light) * np.exp(factor))
        found.append(ciede2000(lab, xyz_to_lab(layers @ observer_d50(NM)))[0])
    return np.array(found)


class LikelySpectra(unittest.TestCase):
    def test_they_have_the_colours_that_they_are_guessed_from(self) -> None:
        known = target_spectra("many-inks", 38, np.random.default_rng(4)) @ observer_d50(NM)
        spectra = likely_spectra(known)
        np.testing.assert_allclose(spectra @ observer_d50(LIKELY_NM), known, rtol=1e-6, atol=1e-6)
        self.assertGreater(float(spectra.min()), 0)
        self.assertLess(float(spectra.max()), 1.5)

    def test_they_come_near_the_true_ones(self) -> None:
        spectra = target_spectra("many-inks", 38, np.random.default_rng(4))
        guessed = likely_spectra(spectra @ observer_d50(NM))[:, : len(NM)]
        error = np.sqrt(np.mean((guessed - spectra) ** 2))
        self.assertLess(float(error), 0.3 * float(spectra.std()))

    def test_black_and_colours_that_no_paint_has_stay_finite(self) -> None:
        spectra = likely_spectra(np.array([[0.0, 0.0, 0.0], [0.2, 0.2, 90.0], [96.4, 100.0, 82.5]]))
        self.assertTrue(np.isfinite(spectra).all())


class Fits(unittest.TestCase):
    def test_masstones_are_known_better_than_by_the_patches_alone(self) -> None:
        for name, device in (("scanner", device_weights("white-led")), ("camera", camera_weights("daylight"))):
            with self.subTest(name):
                data = colours_alone(target_spectra("many-inks", 38, np.random.default_rng(2)), device)
                fit = fit_colour(data, power_curve(2.0))
                self.assertEqual(fit.model.title, "guessed-spectra")
                models = [fitted_to_patches(data, fit.tone, model) for model in ("linear", "root-polynomial-2", "root-polynomial-3")]
                plain = min(models, key=lambda one: float(one.cross_validated_de00.mean()))
                own, before = masstone_errors(fit, device, along_paints=True), masstone_errors(plain, device, along_paints=False)
                self.assertLess(np.median(own), 0.9 * np.median(before))
                self.assertLess(np.percentile(own, 95), 0.85 * np.percentile(before, 95))

    def test_errors_on_paints_lie_within_twice_their_uncertainty(self) -> None:
        """With guessed spectra, and with too few patches for any."""
        for patches, at_least in ((38, 0.95), (18, 0.9)):
            within = []
            spectra = target_spectra("many-inks", 38, np.random.default_rng(1))
            kept = np.concatenate([np.arange(6), 6 + np.random.default_rng(1).permutation(32)[: patches - 6]])
            for device in (device_weights("white-led"), device_weights("three-led"), camera_weights("daylight")):
                fit = fit_colour(colours_alone(spectra[kept], device), power_curve(2.0))
                layers = paints(60).reshape(-1, len(NM))
                found = xyz_to_lab(fit.model.to_xyz(fit.tone.linearise(np.sqrt(layers @ device))))
                stated = np.array([fit.uncertainty(lab)[1] for lab in found])
                within.append(np.abs(found - xyz_to_lab(layers @ observer_d50(NM))) <= 2 * stated)
            with self.subTest(patches=patches):
                self.assertGreater(float(np.mean(within)), at_least)
