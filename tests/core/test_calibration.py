"""Calibration of flat scans against a card whose truth is known."""

import unittest
from typing import Any

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.local_colour import LocalColour
from gelvet.core.capture.reading import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.measure.card import measure_card
from gelvet.core.measure.values import ZoneColour
from gelvet.core.simulate.faults import Fault
from gelvet.core.simulate.files import simulate_scan
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.truth import card_truth
from tests import simulated


class FlatScan(unittest.TestCase):
    layout: Layout
    reference: ReferenceTarget
    capture: CalibratedCapture

    @classmethod
    def setUpClass(cls) -> None:
        made = simulated.bench()
        cls.layout, cls.reference = made.layout, made.reference
        cls.capture = calibrate(simulated.picture(), made.layout, made.reference)

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
                told = LocalColour.of(self.capture, zone.rect).shading()
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
        self.assertEqual(set(simulated.gates(self.capture).values()), {"pass"})
        self.assertEqual(self.capture.calibration.tier, "target")

    def test_inputs_are_not_touched(self) -> None:
        before = simulated.bench().capture.image.copy()
        calibrate(simulated.picture(), self.layout, self.reference)
        np.testing.assert_array_equal(simulated.bench().capture.image, before)

    def test_upside_down_and_quarter_turns_simply_work(self) -> None:
        upright = xyz_to_lab(self.capture.xyz(self.layout.zone("S1.masstone").rect)[0].mean(axis=(0, 1)))
        for turns in (1, 2, 3):
            with self.subTest(turns=turns):
                turned = calibrate(
                    Picture(pixels=np.ascontiguousarray(np.rot90(simulated.picture().pixels, turns))), self.layout, self.reference
                )
                lab = xyz_to_lab(turned.xyz(self.layout.zone("S1.masstone").rect)[0].mean(axis=(0, 1)))
                self.assertLess(float(ciede2000(lab, upright)), 0.15)

    def test_a_darker_or_re_toned_scan_gives_the_same_colours(self) -> None:
        linear = (simulated.picture().pixels / 65535) ** 2.2
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
        eight = calibrate(Picture(pixels=(simulated.picture().pixels >> 8).astype(np.uint8)), self.layout, self.reference)
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
        self.assertEqual(set(simulated.gates(capture).values()), {"pass"})
        self.assertEqual(capture.calibration.model.title, "spectral-prior")
        measured = measure_card(capture).zones
        for name in ("S1.masstone", "S1.wash", "S2.masstone", "S2.wash"):
            zone = measured[name]
            with self.subTest(name):
                assert isinstance(zone, ZoneColour)
                self.assertLess(float(ciede2000(zone.lab, np.array(truth["zones"][name]["lab"]))), 2.0)

    def test_the_file_of_another_target_is_caught(self) -> None:
        capture, _ = self.scanned("wrong-target")
        self.assertEqual(simulated.gates(capture)["residual"], "fail")
