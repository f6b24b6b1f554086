"""Calibration of flat scans against a card whose truth is known."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.colour.correction import tabulate
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.reading import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.errors import NothingMeasurable
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.measure.card import measure_card
from gelvet.core.measure.values import ZoneColour
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.faults import Fault
from gelvet.core.simulate.files import simulate_scan
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.truth import card_truth
from tests import simulated


def picture() -> Picture:
    return Picture(pixels=simulated.bench().capture.image)


def gates(capture: CalibratedCapture) -> dict[str, str]:
    return {g.id: g.state for g in capture.calibration.gates}


def covered(pixels: np.ndarray, tags: list[int], layout: Layout) -> np.ndarray:
    """A scan with slips of grey paper over some tags."""
    geometry = calibrate(picture(), layout, simulated.bench().reference).calibration.geometry
    result = pixels.copy()
    for tag in (t for t in layout.tags if t.id in tags):
        place = geometry.bounds_px(tag.rect.inset(-2), result.shape, margin=0)
        assert place is not None
        result[place] = 40000
    return result


class FlatScan(unittest.TestCase):
    layout: Layout
    reference: ReferenceTarget
    capture: CalibratedCapture

    @classmethod
    def setUpClass(cls) -> None:
        made = simulated.bench()
        cls.layout, cls.reference = made.layout, made.reference
        cls.capture = calibrate(picture(), made.layout, made.reference)

    def test_geometry_is_that_of_the_device(self) -> None:
        geometry = self.capture.calibration.geometry
        self.assertAlmostEqual(geometry.pixels_per_mm, 300 / 25.4, delta=0.002)
        self.assertAlmostEqual(abs(geometry.rotation_deg), 0.7, delta=0.01)
        self.assertLess(geometry.reprojection_px, 0.1)

    def test_blur_on_the_tags_is_that_of_the_optics(self) -> None:
        """The scanner blurs by 0.55 px; sampling the finer card adds its pixel's and the grid's own width."""
        blur = self.capture.calibration.blur_px
        assert blur is not None
        self.assertAlmostEqual(blur, 0.6, delta=0.12)

    def test_shading_is_what_the_colour_model_makes_of_less_light(self) -> None:
        """Of bare paper nearly all in proportion; of paints never more than a little off, and always the way that light goes."""
        for zone in (z for z in self.layout.zones if z.kind in {"paper", "wash", "masstone"}):
            with self.subTest(zone=zone.id):
                told = self.capture.shading(zone.rect)
                linear, _ = self.capture.linear(zone.rect, 4.0)
                mean = linear.reshape(-1, 3).mean(axis=0, dtype=float)
                # A hundredth less would be hardly two of the steps to which the model's table of corrections is read.
                dimmed = np.log(self.capture.colours(0.96 * mean) / self.capture.colours(mean)) / np.log(0.96)
                np.testing.assert_allclose(told, dimmed, atol=0.1)
                self.assertGreater(told.min(), 0.5)
                self.assertLess(told.max(), 1.5)
                if zone.kind == "paper":
                    np.testing.assert_allclose(told, 1, atol=0.06)

    def test_patches_left_out_come_back(self) -> None:
        fit = self.capture.calibration.fit
        assert fit is not None
        self.assertLess(fit.cross_validated_de00.mean(), 1.5)
        self.assertLess(fit.residual_de00.mean(), fit.cross_validated_de00.mean())

    def test_a_good_scan_passes_every_gate(self) -> None:
        self.assertEqual(set(gates(self.capture).values()), {"pass"})
        self.assertEqual(self.capture.calibration.tier, "target")

    def test_inputs_are_not_touched(self) -> None:
        before = simulated.bench().capture.image.copy()
        calibrate(picture(), self.layout, self.reference)
        np.testing.assert_array_equal(simulated.bench().capture.image, before)

    def test_upside_down_and_quarter_turns_simply_work(self) -> None:
        upright = xyz_to_lab(self.capture.xyz(self.layout.zone("S1.masstone").rect)[0].mean(axis=(0, 1)))
        for turns in (1, 2, 3):
            with self.subTest(turns=turns):
                turned = calibrate(Picture(pixels=np.ascontiguousarray(np.rot90(picture().pixels, turns))), self.layout, self.reference)
                lab = xyz_to_lab(turned.xyz(self.layout.zone("S1.masstone").rect)[0].mean(axis=(0, 1)))
                self.assertLess(float(ciede2000(lab, upright)), 0.15)

    def test_a_darker_or_re_toned_scan_gives_the_same_colours(self) -> None:
        linear = (picture().pixels / 65535) ** 2.2
        zone = self.layout.zone("S2.masstone").rect
        expected = xyz_to_lab(self.capture.xyz(zone)[0].mean(axis=(0, 1)))
        levels = np.clip(linear, 0, 1) ** (1 / np.array([2.2, 2.3, 2.05])) * [0.97, 0.95, 0.9] + [0.01, 0.02, 0.06]
        retoned = {"darker": (0.7 * linear) ** (1 / 2.2), "linear": linear, "gamma 1.8": linear ** (1 / 1.8), "levels": levels}
        for name, code in retoned.items():
            with self.subTest(name=name):
                again = calibrate(Picture(pixels=(code * 65535).astype(np.uint16)), self.layout, self.reference)
                lab = xyz_to_lab(again.xyz(zone)[0].mean(axis=(0, 1)))
                self.assertLess(float(ciede2000(lab, expected)), 0.5)

    def test_eight_bits_are_enough_for_colour(self) -> None:
        eight = calibrate(Picture(pixels=(picture().pixels >> 8).astype(np.uint8)), self.layout, self.reference)
        zone = self.layout.zone("S2.masstone").rect
        one, two = (xyz_to_lab(c.xyz(zone)[0].mean(axis=(0, 1))) for c in (eight, self.capture))
        self.assertLess(float(ciede2000(one, two)), 0.5)


class TargetOfThreeInks(unittest.TestCase):
    """A target from an office printer, whose inks tell little of the device."""

    def scanned(self, fault: Fault | None = None) -> tuple[CalibratedCapture, dict[str, Any]]:
        layout = build_card("OFFICE-1", "A6", [SwatchLabel("Blue"), SwatchLabel("Red")])
        paints = {"S1": paint_of_codes("Blue", ("PB15",), (1.0,)), "S2": paint_of_codes("Red", ("PV19",), (1.0,))}
        made = simulate_scan(layout, paints, Scanner(), seed=12, target="three-inks", fault=fault)
        return calibrate(Picture(pixels=made.image), layout, made.reference), card_truth(made.card)

    def test_its_capture_is_believed_and_its_paints_are_right(self) -> None:
        capture, truth = self.scanned()
        self.assertEqual(set(gates(capture).values()), {"pass"})
        self.assertEqual(capture.calibration.model.title, "spectral-prior")
        measured = measure_card(capture).zones
        for name in ("S1.masstone", "S1.wash", "S2.masstone", "S2.wash"):
            zone = measured[name]
            with self.subTest(name):
                assert isinstance(zone, ZoneColour)
                self.assertLess(float(ciede2000(zone.lab, np.array(truth["zones"][name]["lab"]))), 2.0)

    def test_the_file_of_another_target_is_caught(self) -> None:
        capture, _ = self.scanned("wrong-target")
        self.assertEqual(gates(capture)["residual"], "fail")


class Gates(unittest.TestCase):
    def setUp(self) -> None:
        made = simulated.bench()
        self.layout, self.reference = made.layout, made.reference

    def test_one_covered_tag_is_measured_with_a_warning(self) -> None:
        capture = calibrate(Picture(pixels=covered(picture().pixels, [1], self.layout)), self.layout, self.reference)
        self.assertEqual(gates(capture)["tags"], "warn")
        self.assertLess(capture.calibration.geometry.reprojection_px, 0.1)

    def test_two_tags_of_four_or_none_are_refused(self) -> None:
        ids = [t.id for t in self.layout.tags]
        for hidden, words in ((ids[2:], "too few to place the card"), (ids, "No tags were found")):
            with self.subTest(hidden=hidden), self.assertRaisesRegex(NothingMeasurable, words):
                calibrate(Picture(pixels=covered(picture().pixels, hidden, self.layout)), self.layout, self.reference)

    def test_another_cards_layout_is_refused(self) -> None:
        with self.assertRaisesRegex(NothingMeasurable, "shows card TEST-CARD-01"):
            calibrate(picture(), replace(self.layout, card_id="OTHER-1"), self.reference)
        moved = tuple(replace(t, centre_mm=(t.centre_mm[0], t.centre_mm[1] + 9 * (t.id % 2))) for t in self.layout.tags)
        with self.assertRaisesRegex(NothingMeasurable, "do not stand where this layout has them"):
            calibrate(picture(), replace(self.layout, tags=moved), self.reference)

    def test_tags_of_sizes_in_other_units_are_named(self) -> None:
        shrunk = tuple(replace(t, size_mm=t.size_mm / 10) for t in self.layout.tags)
        with self.assertRaisesRegex(NothingMeasurable, "as its layout says; check the tags' center_mm and size_mm"):
            calibrate(picture(), replace(self.layout, tags=shrunk), self.reference)

    def test_missing_patches_are_named_and_no_reference_fails(self) -> None:
        some = ReferenceTarget(ids=self.reference.ids[3:], xyz=self.reference.xyz[3:])
        capture = calibrate(picture(), self.layout, some)
        self.assertEqual(gates(capture)["reference"], "warn")
        self.assertIn("A1, A2, A3", next(g.advice for g in capture.calibration.gates if g.id == "reference"))
        bare = calibrate(picture(), self.layout, None)
        self.assertEqual((bare.calibration.tier, gates(bare)["reference"]), ("none", "fail"))

    def test_a_file_of_other_names_or_of_a_few_patches_is_not_called_none(self) -> None:
        ids = self.reference.ids
        for kept, named, words in (
            (slice(None), tuple(f"Q{i}" for i in ids), "names none of this card's patches \\(A1, A2"),
            (slice(4), (*ids[:2], "A900", "A901"), "Only 2 of the card's patches"),
        ):
            target = ReferenceTarget(ids=named, xyz=self.reference.xyz[kept])
            capture = calibrate(picture(), self.layout, target)
            self.assertEqual(gates(capture)["reference"], "fail")
            self.assertRegex(next(g.advice for g in capture.calibration.gates if g.id == "reference"), words)

    def test_eight_patches_three_of_them_coloured_tell_the_device(self) -> None:
        """Such a card had its greys alone to go by, and vivid paints 5 to 11 ΔE00 off."""
        lab = xyz_to_lab(self.reference.xyz)
        greys = np.flatnonzero(np.hypot(lab[:, 1], lab[:, 2]) < 5)[[0, 2, 4, 6, 7]]
        yellow, red, blue = (int(np.argmin(np.linalg.norm(lab - near, axis=1))) for near in ((88, 0, 80), (45, 60, 30), (45, -10, -45)))
        for coloured, tier in (((yellow, red, blue), "target"), ((yellow, blue), "grey")):
            kept = [*greys, *coloured]
            few = ReferenceTarget(
                ids=tuple(self.reference.ids[i] for i in kept), xyz=self.reference.xyz[kept],
                wavelengths_nm=self.reference.wavelengths_nm,
                spectra=None if self.reference.spectra is None else self.reference.spectra[kept],
            )  # fmt: skip
            capture = calibrate(picture(), self.layout, few)
            errors = []
            for name, true in simulated.bench().truth["zones"].items():
                zone = self.layout.zone(name)
                if zone.kind in {"masstone", "wash", "beside_ink"}:
                    read = xyz_to_lab(capture.xyz(zone.rect.inset(1))[0].mean(axis=(0, 1), dtype=float))
                    errors.append(float(ciede2000(read, np.array(true["lab"]))))
            with self.subTest(coloured=len(coloured)):
                self.assertEqual(capture.calibration.tier, tier)
                if tier == "target":
                    self.assertLess(max(errors), 2)
                else:
                    self.assertGreater(float(np.median(errors)), 3)

    def test_names_in_other_capitals_are_the_same_patches(self) -> None:
        small = replace(self.reference, ids=tuple(i.lower() for i in self.reference.ids))
        self.assertEqual(set(gates(calibrate(picture(), self.layout, small)).values()), {"pass"})

    def test_two_rows_that_changed_places_are_left_out_and_not_called_glare(self) -> None:
        order = list(range(len(self.reference.ids)))
        order[8], order[12] = 12, 8
        swapped = replace(self.reference, xyz=self.reference.xyz[order], spectra=None, wavelengths_nm=None)
        capture = calibrate(picture(), self.layout, swapped)
        said = {g.id: g for g in capture.calibration.gates}
        self.assertEqual((said["reference"].state, said["glare"].state), ("warn", "pass"))
        self.assertIn(f"{self.reference.ids[8]}, {self.reference.ids[12]}", said["reference"].advice)

    def test_without_a_reference_nothing_is_measured_and_the_reason_is_said(self) -> None:
        document = measure_image(simulated.bench().image, self.layout, None).document
        self.assertIn("no reference", document["swatches"]["S1"]["hue_shift"]["absent"])
        self.assertIsNone(document["zones"]["S1.masstone"]["lab"])

    def test_greys_alone_give_lightness_and_say_so_of_hues(self) -> None:
        greys = [f"A{i}" for i in range(1, 9)]
        kept = [self.reference.ids.index(g) for g in greys]
        only = ReferenceTarget(ids=tuple(greys), xyz=self.reference.xyz[kept])
        document = measure_image(simulated.bench().image, self.layout, only).document
        self.assertEqual(document["calibration"]["tier"], "grey")
        self.assertIn("hues cannot", {g["id"]: g for g in document["calibration"]["gates"]}["reference"]["advice"])
        for name, true in simulated.bench().truth["zones"].items():
            zone = document["zones"][name]
            with self.subTest(zone=name):
                miss = np.abs(np.array(zone["lab"]) - np.array(true["lab"]))
                self.assertTrue((miss < 3 * np.array(zone["u_lab"])).all(), f"{miss} against {zone['u_lab']}")
        soot = document["zones"]["S3.masstone"]
        self.assertLess(abs(soot["lab"][0] - simulated.bench().truth["zones"]["S3.masstone"]["lab"][0]), 1.0)

    def test_another_targets_file_shows_in_the_residual(self) -> None:
        shuffled = ReferenceTarget(ids=self.reference.ids, xyz=np.roll(self.reference.xyz, 7, axis=0))
        self.assertEqual(gates(calibrate(picture(), self.layout, shuffled))["residual"], "fail")

    def test_channels_in_each_others_place_are_named(self) -> None:
        made = simulated.bench()
        for order, named in (((2, 1, 0), "red and blue"), ((1, 0, 2), "red and green"), ((1, 2, 0), "red, green and blue")):
            with self.subTest(order=order):
                exchanged = Picture(pixels=np.ascontiguousarray(made.capture.image[..., order]))
                gate = next(g for g in calibrate(exchanged, made.layout, made.reference).calibration.gates if g.id == "reference")
                self.assertEqual(gate.state, "fail")
                self.assertIn(f"the file's {named} stand", gate.advice)

    def test_clipping_softness_and_uneven_light_are_seen(self) -> None:
        import cv2

        linear = (picture().pixels / 65535) ** 2.2
        slope = np.linspace(1.0, 0.55, linear.shape[1])[None, :, None]
        cases = {
            "clipping": np.clip(linear * 1.25, 0, 1),
            "focus": cv2.GaussianBlur(linear, (0, 0), 2.2),
            "fall-off": linear * slope,
        }
        for gate, bad in cases.items():
            with self.subTest(gate=gate):
                pixels = (bad ** (1 / 2.2) * 65535).astype(np.uint16)
                self.assertIn(gates(calibrate(Picture(pixels=pixels), self.layout, self.reference))[gate], {"warn", "fail"})

    def test_a_wet_card_is_not_judged(self) -> None:
        document = measure_image(simulated.bench().image, self.layout, self.reference, state="wet").document
        self.assertEqual(document["swatches"]["S1"]["granulation"]["absent"], "the card was captured wet")


class Profiles(unittest.TestCase):
    def test_an_embedded_profile_alone_gives_the_profile_tier(self) -> None:
        import imagecodecs

        made = simulated.bench()
        with tempfile.TemporaryDirectory() as folder:
            linear = (made.capture.image / 65535) ** 2.2
            encoded = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
            path = simulated.write_tiff(
                Path(folder) / "tagged.tif", (encoded * 65535).astype(np.uint16), iccprofile=imagecodecs.cms_profile("srgb")
            )
            document = measure_image(path, made.layout, None).document
        self.assertEqual(document["calibration"]["tier"], "profile")
        zones, true = document["zones"], made.truth["zones"]
        errors = [
            float(ciede2000(np.array(zones[n]["lab"]), np.array(true[n]["lab"]))) / zones[n]["u"] for n in true if "gradient" not in n
        ]
        self.assertLess(float(np.sqrt(np.mean(np.square(errors)))), 2)

    def test_a_damaged_profile_is_told_and_the_target_counts(self) -> None:
        made = simulated.bench()
        with tempfile.TemporaryDirectory() as folder:
            path = simulated.write_tiff(Path(folder) / "damaged.tif", made.capture.image, iccprofile=b"no profile at all" * 9)
            calibration = measure_image(path, made.layout, made.capture.reference).document["calibration"]
        self.assertEqual(calibration["tier"], "target")
        self.assertIn("colour profile is damaged", " ".join(calibration["warnings"]))


class Parts(unittest.TestCase):
    def test_the_starting_curve_is_near_its_power_and_rises(self) -> None:
        code = np.linspace(0, 1, 50)
        for gamma in (1.0, 1.8, 2.2):
            light = power_curve(gamma).linearise(code)
            np.testing.assert_allclose(light, code**gamma, atol=0.02)
            self.assertTrue(np.all(np.diff(light) > 0))

    def test_root_polynomials_follow_the_exposure(self) -> None:
        rng = np.random.default_rng(1)
        rgb = rng.uniform(0.01, 1, (40, 3))
        for name, terms in (("linear", 3), ("root-polynomial-2", 6), ("root-polynomial-3", 13)):
            model = ColourModel(name, rng.uniform(0.1, 10, (terms, 3)))
            np.testing.assert_allclose(model.to_xyz(0.37 * rgb), 0.37 * model.to_xyz(rgb), rtol=1e-9)

    def test_the_local_correction_learns_a_smooth_error_and_is_silent_elsewhere(self) -> None:
        rng = np.random.default_rng(2)
        rgb = rng.uniform(0.2, 0.6, (4000, 3)) ** 3
        error = 0.2 * (np.cbrt(rgb[:, :1]) - 0.4) * np.array([1.0, -1.0, 0.5])
        grid = tabulate(rgb, error)
        inside = rng.uniform(0.25, 0.55, (200, 3)) ** 3
        np.testing.assert_allclose(np.log(grid.factor(inside)), 0.2 * (np.cbrt(inside[:, :1]) - 0.4) * [1.0, -1.0, 0.5], atol=0.02)
        np.testing.assert_allclose(grid.factor(np.array([[1.0, 1.0, 1.0]])), 1, atol=1e-3)


if __name__ == "__main__":
    unittest.main()
