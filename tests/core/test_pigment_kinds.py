"""What a prior that knows the usual kinds of pigment is good for: colours that one device colour leaves open."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.fit import fit_colour
from gelvet.core.capture.colour.pigment_kinds import absorption_of_kinds
from gelvet.core.capture.colour.readings import PatchReadings
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.kubelka_munk import layer_reflectance
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.camera import camera_weights
from gelvet.core.simulate.scanner import device_weights
from gelvet.core.simulate.spectra import WAVELENGTHS_NM as NM
from gelvet.core.simulate.spectra import paper_reflectance, patch_spectra


def clean_turquoise(rng: np.random.Generator) -> Floats:
    """Reflectance (5, n) from masstone to wash of a paint that takes all red light and hardly any other."""
    red = np.exp(-(((NM - rng.uniform(655, 690)) / rng.uniform(64, 92)) ** 2))
    absorption = red + 0.12 / (1 + np.exp((NM - 430) / 15)) + rng.uniform(0.004, 0.024)
    scattering, paper = np.full(len(NM), 0.01), paper_reflectance()
    return np.stack([0.01 + 0.99 * layer_reflectance(absorption * t, scattering * t, paper) for t in (4, 2, 1, 0.5, 0.2)])


class UsualKinds(unittest.TestCase):
    def test_layers_are_physical_and_of_about_one_strength(self) -> None:
        absorption = absorption_of_kinds(np.random.default_rng(1), NM[None], 500)
        self.assertGreaterEqual(float(absorption.min()), 0)
        highest = absorption.max(axis=1)
        self.assertGreater(float(highest.min()), 0.4)
        self.assertLess(float(highest.max()), 2.6)
        # Most let some of the spectrum through, as paints with a colour do.
        self.assertGreater(float(np.mean(absorption.min(axis=1) < 0.2 * highest)), 0.8)

    def test_clean_turquoises_are_not_made_duller_than_they_are(self) -> None:
        spectra = patch_spectra(38, np.random.default_rng(3))
        for name, device in (("flatbed", device_weights("white-led")), ("camera", camera_weights("lamp-led"))):
            rng = np.random.default_rng(4)
            readings = PatchReadings(
                code=np.sqrt(spectra @ device), xyz=spectra @ observer_d50(NM), light=np.ones((38, 3)), wavelengths_nm=NM, spectra=spectra
            )
            fit = fit_colour(readings, power_curve(2.0))
            assert fit.paths is not None
            duller, errors = [], []
            for _ in range(20):
                layers = clean_turquoise(rng)
                light = fit.tone.linearise(np.sqrt(layers @ device))
                read = xyz_to_lab(fit.model.to_xyz(light) * np.exp(fit.paths.correction(light)))[0]
                true = xyz_to_lab(layers[0] @ observer_d50(NM))
                duller.append(np.hypot(*true[1:]) - np.hypot(*read[1:]))
                errors.append(float(ciede2000(read, true)))
            with self.subTest(name):
                self.assertLess(abs(float(np.median(duller))), 1.2)
                self.assertLess(float(np.median(errors)), 1.2)
