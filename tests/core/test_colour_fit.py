"""The colour fit on devices that are known exactly, and the parts of it that can be checked against brute force."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.colour_fit import KnownErrors
from gelvet.core.capture.colour.fit import fit_colour
from gelvet.core.capture.colour.gamut import gamut_of
from gelvet.core.capture.colour.models import EXPANSIONS, ColourModel, perceptual_weights
from gelvet.core.capture.colour.paint_paths import PaintPaths, paint_paths
from gelvet.core.capture.colour.paint_prior import paint_prior, random_paints
from gelvet.core.capture.colour.patch_fit import fit_tone
from gelvet.core.capture.colour.readings import PatchReadings
from gelvet.core.capture.colour.sensitivities import recover_sensitivities
from gelvet.core.capture.colour.stray_patches import stray_patches
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.kubelka_munk import layer_reflectance
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.camera import camera_weights
from gelvet.core.simulate.scanner import device_weights
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, invented_pigment, paper_reflectance, patch_spectra, three_ink_spectra

NM = np.arange(390.0, 731.0, 10.0)


def patches(count: int, seed: int) -> Floats:
    """Reflectance (count, n) of smooth, varied patches, the first six grey."""
    rng = np.random.default_rng(seed)
    prior = paint_prior(tuple(NM.tolist()))
    chosen = prior[rng.choice(len(prior), count - 6, replace=False)]
    greys = np.linspace(0.04, 0.88, 6)[:, None] * np.ones(len(NM))
    return np.concatenate([greys, chosen])


def readings(gamma: float, device: Floats, count: int = 36, *, with_spectra: bool = False, seed: int = 1) -> PatchReadings:
    spectra = patches(count, seed)
    light = np.maximum(spectra @ device, 1e-4)
    return PatchReadings(
        code=(light / 1.02) ** (1 / gamma), xyz=spectra @ observer_d50(NM), light=np.ones_like(light),
        wavelengths_nm=NM if with_spectra else None, spectra=spectra if with_spectra else None,
    )  # fmt: skip


def ink_mixtures(rng: np.random.Generator, count: int) -> Floats:
    """Reflectance (count, n) of three transparent inks of one broad band each, laid over each other on white."""
    bands = np.stack([1 / (1 + np.exp((NM - 505) / 11)), np.exp(-(((NM - 545) / 45) ** 2)), np.exp(-(((NM - 630) / 78) ** 2))])
    amounts = rng.dirichlet([0.6] * 3, count) * rng.choice([0.6, 1.5, 3.0, 5.0], count)[:, None]
    return np.asarray(0.012 + 0.87 * np.exp(-amounts @ bands))


def invented_layers(count: int, seed: int) -> Floats:
    """Reflectance (4 count, n) at `WAVELENGTHS_NM` of simulated pigments, pale to deep."""
    rng, paper = np.random.default_rng(seed), paper_reflectance()
    pigments = [invented_pigment(rng) for _ in range(count)]
    layers = [layer_reflectance(p.absorption * t, p.scattering * t, paper) for p in pigments for t in (0.1, 0.4, 1.2, 3.0)]
    return 0.008 + 0.992 * np.stack(layers)


def observer_like() -> Floats:
    """A device that is a linear transform of the observer's, as none is."""
    weights = observer_d50(NM) @ np.array([[0.9, -0.2, 0.05], [0.3, 1.1, -0.1], [0.02, 0.05, 1.0]])
    return np.asarray(weights / weights.sum(axis=0))


def bell_device() -> Floats:
    weights = np.stack([np.exp(-(((NM - c) / w) ** 2)) for c, w in ((605, 48), (537, 46), (457, 36))], axis=1)
    return np.asarray(weights / weights.sum(axis=0))


class Fits(unittest.TestCase):
    def test_a_straight_curve_stays_straight_above_the_brightest_patch(self) -> None:
        """A dim linear picture, in which bare paper is brighter than any patch: a tenth of a percent of misfit bends nothing there."""
        rng = np.random.default_rng(5)
        code = np.array([0.2, 0.3, 0.45, 0.6, 0.7])[:, None] * np.ones(3)
        for number in range(6):
            spectra = patch_spectra(38, rng)
            light = 0.6 * (spectra @ camera_weights("daylight" if number % 2 else "lamp-led")) * (1 + rng.normal(0, 0.001, (38, 3)))
            data = PatchReadings(
                code=light, xyz=spectra @ observer_d50(NM), light=np.ones_like(light), wavelengths_nm=NM, spectra=spectra
            )  # fmt: skip
            found = fit_colour(data, fit_tone(data)).tone.linearise(code) / code
            with self.subTest(number=number):
                np.testing.assert_allclose(found / found[2], 1, atol=0.008)

    def test_an_observers_device_is_recovered_exactly_whatever_its_tone_curve(self) -> None:
        for gamma in (1.0, 1.8, 2.2):
            data = readings(gamma, observer_like())
            fit = fit_colour(data, fit_tone(data))
            with self.subTest(gamma=gamma):
                self.assertLess(float(fit.residual_de00.mean()), 0.35)
                code = np.linspace(0.12, 0.95, 20)
                ratio = fit.tone.linearise(code) / code**gamma
                np.testing.assert_allclose(ratio / ratio[-1], 1, atol=0.08)

    def test_leaving_out_by_the_hat_matrix_is_leaving_out_by_hand(self) -> None:
        from gelvet.core.capture.colour.patch_fit import _leave_one_out_xyz, perceptual_design, ridge_solve

        data = readings(1.0, bell_device(), count=20)
        weights = perceptual_weights(data.xyz)
        design = perceptual_design(data.code, "root-polynomial-2", weights)
        target = np.einsum("nij,nj->ni", weights, data.xyz).ravel()
        ridge = 1e-9  # so small that the ridge's own scale does not change with the rows
        fast = _leave_one_out_xyz(design, target, ridge_solve(design, target, ridge), ridge, weights, data.xyz)
        for i in range(0, 20, 3):
            kept = np.delete(np.arange(20), i)
            rows = np.concatenate([[3 * k, 3 * k + 1, 3 * k + 2] for k in kept])
            solution = ridge_solve(design[rows], target[rows], ridge).reshape(-1, 3)
            by_hand = EXPANSIONS["root-polynomial-2"](data.code[i : i + 1]) @ solution
            np.testing.assert_allclose(fast[i], np.clip(by_hand[0], 1e-3, None), rtol=1e-3, atol=1e-3)

    def test_spectra_give_back_the_devices_sensitivities(self) -> None:
        device = bell_device()
        spectra = patches(60, 4)
        found = recover_sensitivities(spectra, spectra @ device, NM).likeliest
        self.assertGreater(float(found.min()), -0.02 * float(found.max()))
        for channel in range(3):
            self.assertGreater(float(np.corrcoef(found[:, channel], device[:, channel])[0, 1]), 0.97)

    def test_knowing_paints_helps_on_paints_that_were_never_seen(self) -> None:
        device = bell_device()
        unseen = paint_prior(tuple(NM.tolist()))[::17] * 0.97 + 0.01
        lab = xyz_to_lab(unseen @ observer_d50(NM))
        errors = {}
        for with_spectra in (False, True):
            data = readings(2.2, device, with_spectra=with_spectra)
            fit = fit_colour(data, fit_tone(data))
            code = (unseen @ device / 1.02) ** (1 / 2.2)
            errors[with_spectra] = float(np.median(ciede2000(xyz_to_lab(fit.model.to_xyz(fit.tone.linearise(code))), lab)))
        self.assertLess(errors[True], errors[False])

    def test_few_patches_get_few_terms(self) -> None:
        data = readings(2.2, bell_device(), count=10)
        self.assertEqual(fit_colour(data, fit_tone(data)).model.name, "linear")

    def test_errors_are_those_of_the_neighbourhood_and_grow_beyond_it(self) -> None:
        lab = np.array([[50.0, 0, 0], [50, 1, 0], [50, 60, 0], [50, 61, 0]])
        known = KnownErrors(lab=lab, de00=np.array([0.5, 0.5, 4, 4]), error_lab=np.tile([[0.1, 0.2, 0.3]], (4, 1)))
        self.assertAlmostEqual(known.near(np.array([50.0, 0, 0]), 5)[0], 0.5, delta=0.05)
        self.assertAlmostEqual(known.near(np.array([50.0, 60, 0]), 5)[0], 4, delta=0.2)
        self.assertGreater(known.near(np.array([50.0, 0, 90]), 5)[0], 4)


class StrayPatches(unittest.TestCase):
    """Covered patches are found, all of them and no others, though they draw the fit toward themselves."""

    def strays(self, covered: list[int], with_spectra: bool) -> list[int]:
        known = readings(2.2, device_weights("white-led"), with_spectra=with_spectra, seed=8)
        code = known.code.copy()
        code[covered] = [0.72, 0.35, 0.33]
        spoilt = replace(known, code=code)
        return np.flatnonzero(stray_patches(fit_colour(spoilt, power_curve(2.0)), spoilt)).tolist()

    def test_none_where_all_are_clean(self) -> None:
        for with_spectra in (False, True):
            self.assertEqual(self.strays([], with_spectra), [])

    def test_neighbours_under_one_sticker(self) -> None:
        for covered in ([3], [2, 3, 4], [1, 2, 20, 21, 22]):
            with self.subTest(covered=covered):
                self.assertEqual(self.strays(covered, with_spectra=True), covered)

    def test_half_of_them_wrong_is_another_target(self) -> None:
        self.assertEqual(self.strays(list(range(0, 36, 2)), with_spectra=False), [])


class WholePaints(unittest.TestCase):
    """A paint's way from masstone to wash tells what one colour cannot."""

    paints = random_paints(tuple(NM.tolist()), 60, seed=99)
    device = bell_device()
    model = np.linalg.lstsq(device, observer_d50(NM), rcond=None)[0]

    def layers(self, paint: int, amounts: tuple[float, ...]) -> Floats:
        """Reflectance (n, m) of one paint laid in these amounts."""
        absorption, scattering, paper, surface = (part[paint] for part in self.paints)
        return np.stack([surface + (1 - surface) * layer_reflectance(absorption * t, scattering * t, paper) for t in amounts])

    def paths(self) -> PaintPaths:
        return paint_paths(ColourModel("linear", self.model), self.device, NM)

    def test_the_way_takes_off_most_of_a_models_error_on_a_paint(self) -> None:
        paths = self.paths()
        before, after = [], []
        for paint in range(60):
            layers = self.layers(paint, (0.05, 0.2, 0.6, 1.5))
            rgb, xyz = layers @ self.device, layers @ observer_d50(NM)
            plain = np.maximum(rgb @ self.model, 1e-3)
            before += ciede2000(xyz_to_lab(plain), xyz_to_lab(xyz)).tolist()
            after += ciede2000(xyz_to_lab(plain * np.exp(paths.correction(rgb))), xyz_to_lab(xyz)).tolist()
        self.assertLess(float(np.median(after)), 0.12 * float(np.median(before)))
        self.assertLess(float(np.percentile(after, 90)), 0.4 * float(np.percentile(before, 90)))

    def test_a_way_that_no_paint_takes_is_not_corrected_further_than_the_model_errs(self) -> None:
        """Pale it is one paint, deep another."""
        paths = self.paths()
        for paint in range(59):
            layers = np.concatenate([self.layers(paint, (0.05, 0.2)), self.layers(paint + 1, (0.6, 1.5))])
            rgb, xyz = layers @ self.device, layers @ observer_d50(NM)
            furthest = float(np.abs(np.log(xyz / np.maximum(rgb @ self.model, 1e-3))).max())
            self.assertLess(float(np.abs(paths.correction(rgb)).max()), furthest + 0.06)

    def test_a_mixing_cameras_negative_sensitivities_are_allowed_and_a_sensors_are_not(self) -> None:
        spectra = patches(36, 1)
        sensor = bell_device()
        mixed = sensor @ (1.3 * np.eye(3) - 0.1)
        found = [recover_sensitivities(spectra, spectra @ device, NM).likeliest for device in (sensor, mixed)]
        self.assertGreater(float(found[0].min()), -0.001)
        self.assertLess(float(found[1].min()), -0.005)

    def test_three_inks_tell_the_device_well_enough_for_paints_and_how_well(self) -> None:
        spectra = three_ink_spectra(38, np.random.default_rng(3))
        paints = paint_prior(tuple(WAVELENGTHS_NM.tolist()))[::13]
        for name, device in (("flatbed", device_weights("white-led")), ("camera", camera_weights("daylight"))):
            with self.subTest(name):
                light = spectra @ device * (1 + 0.003 * np.random.default_rng(4).standard_normal((38, 3)))
                found = recover_sensitivities(spectra, light, WAVELENGTHS_NM)
                true, read = np.cbrt(paints @ device), np.cbrt(np.maximum(paints @ found.likeliest, 0))
                self.assertLess(100 * float(np.median(np.abs(read - true))), 0.2)
                self.assertLess(100 * float(np.percentile(np.abs(read - true), 95)), 1.8)
                drawn = np.stack([np.cbrt(np.maximum(paints @ draw, 0)) for draw in found.draws])
                held = np.abs(read - true) <= 2 * np.hypot(drawn.std(axis=0), 0.0005)
                self.assertGreater(float(held.mean()), 0.8)

    def test_on_a_target_of_few_inks_the_model_that_knows_paints_is_taken(self) -> None:
        """Judged on paints that are not of the sample."""
        spectra, paints = three_ink_spectra(38, np.random.default_rng(3)), invented_layers(200, 7)
        true = xyz_to_lab(paints @ observer_d50(WAVELENGTHS_NM))
        for name, device in (("flatbed", device_weights("white-led")), ("camera", camera_weights("daylight"))):
            data = PatchReadings(
                code=np.sqrt(spectra @ device), xyz=spectra @ observer_d50(WAVELENGTHS_NM), light=np.ones((38, 3)),
                wavelengths_nm=WAVELENGTHS_NM, spectra=spectra,
            )  # fmt: skip
            errors = {}
            for known, given in (("spectra", data), ("colours", replace(data, spectra=None, wavelengths_nm=None))):
                fit = fit_colour(given, power_curve(2.0))
                errors[known] = ciede2000(xyz_to_lab(fit.model.to_xyz(fit.tone.linearise(np.sqrt(paints @ device)))), true)
            with self.subTest(name):
                self.assertLess(np.median(errors["spectra"]), 0.75 * np.median(errors["colours"]))
                self.assertLess(np.percentile(errors["spectra"], 95), 0.75 * np.percentile(errors["colours"], 95))
                # The patches themselves are known well, and the capture is judged by that.
                self.assertLess(float(fit_colour(data, power_curve(2.0)).at_patches.de00.mean()), 0.8)

    def test_a_target_of_few_patches_tells_the_device_as_well(self) -> None:
        """Below twenty patches polynomials of them alone were tried: four times as far off in the middle."""
        paints = invented_layers(200, 7)
        true = xyz_to_lab(paints @ observer_d50(WAVELENGTHS_NM))
        for name, device in (("flatbed", device_weights("three-led")), ("camera", camera_weights("daylight"))):
            errors = {}
            for count in (13, 38):
                spectra = patch_spectra(count, np.random.default_rng(3))
                data = PatchReadings(
                    code=np.sqrt(spectra @ device), xyz=spectra @ observer_d50(WAVELENGTHS_NM), light=np.ones((count, 3)),
                    wavelengths_nm=WAVELENGTHS_NM, spectra=spectra,
                )  # fmt: skip
                fit = fit_colour(data, power_curve(2.0))
                errors[count] = ciede2000(xyz_to_lab(fit.model.to_xyz(fit.tone.linearise(np.sqrt(paints @ device)))), true)
            with self.subTest(name):
                for rank in (50, 95):
                    few, many = (float(np.percentile(errors[count], rank)) for count in (13, 38))
                    self.assertLess(few, 1.5 * many)

    def test_paints_of_the_targets_own_inks_are_known_as_its_inks_are(self) -> None:
        """The sample of paints holds nothing like these: what the patches tell of them counts too."""
        device, errors = bell_device(), []
        for seed in range(3):
            rng = np.random.default_rng(seed)
            spectra = np.concatenate([np.linspace(0.04, 0.88, 6)[:, None] * np.ones(len(NM)), ink_mixtures(rng, 34)])
            data = PatchReadings(
                code=np.sqrt(spectra @ device / 1.02), xyz=spectra @ observer_d50(NM), light=np.ones((40, 3)),
                wavelengths_nm=NM, spectra=spectra,
            )  # fmt: skip
            fit = fit_colour(data, power_curve(2.0))
            self.assertEqual(fit.model.title, "spectral-prior")
            paints = ink_mixtures(rng, 300)
            found = fit.model.to_xyz(fit.tone.linearise(np.sqrt(paints @ device / 1.02)))
            errors += ciede2000(xyz_to_lab(found), xyz_to_lab(paints @ observer_d50(NM))).tolist()
        self.assertLess(np.median(errors), 0.25)

    def test_spectra_of_another_target_are_not_believed(self) -> None:
        data = readings(2.2, bell_device(), with_spectra=True)
        one_black = np.concatenate([np.zeros((1, len(NM))), patches(36, 7)[1:]])
        for name, spectra in (("7", patches(36, 7)), ("8", patches(36, 8)), ("zeros", np.zeros((36, len(NM)))), ("one black", one_black)):
            with self.subTest(name), np.errstate(divide="raise", invalid="raise"):
                fit = fit_colour(replace(data, spectra=spectra), power_curve(2.2))
                self.assertNotEqual(fit.model.title, "spectral-prior")
                self.assertIsNone(fit.paths)


class Gamuts(unittest.TestCase):
    def test_distance_outside_a_box_of_colours(self) -> None:
        box = np.array([[x, y, z] for x in (20.0, 80.0) for y in (-30.0, 30.0) for z in (-30.0, 30.0)])
        gamut = gamut_of(box)
        assert gamut is not None
        self.assertEqual(gamut.beyond(np.array([50.0, 10.0, -20.0])), 0)
        self.assertAlmostEqual(gamut.beyond(np.array([50.0, 42.0, 0.0])), 12)
        self.assertIsNone(gamut_of(box[:4]))
        self.assertIsNone(gamut_of(np.array([[x, 0.0, 0.0] for x in range(8)])))
