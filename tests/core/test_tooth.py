"""The paper's relief from low lamps, and what lies in its hollows."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.capture.shots.lit_shots import lit_shots
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.measure.grain.granulation import grain_index, paper_texture
from gelvet.core.measure.grain.tooth import Hollows, banded, hollows_of, paper_shading, relief_from_slopes
from gelvet.core.measure.quantities.paper import PaperShading
from gelvet.core.measure.zone.colour import zone_pixels
from gelvet.core.measure.zone.light import zone_light
from gelvet.core.pipeline import Measured
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.truth import card_truth
from tests.lamps import LAMPS, lit_card, measured_with, photographed


class Tooth(unittest.TestCase):
    def test_relief_comes_back_from_its_slopes(self) -> None:
        scale = 12.0
        y, x = np.mgrid[:360, :480] / scale
        height = 0.02 * np.cos(2 * np.pi * (0.9 * x + 0.5 * y))
        dy, dx = np.gradient(height, 1 / scale)
        found = relief_from_slopes(dx, dy, scale, 0.0)[40:-40, 40:-40]
        true = height[40:-40, 40:-40]
        self.assertGreater(np.corrcoef(found.ravel(), true.ravel())[0, 1], 0.99)

    def test_a_settling_pigment_lies_in_the_hollows_and_a_clumping_one_anywhere(self) -> None:
        document = measured_with(3).document["swatches"]
        self.assertGreater(document["S1"]["granulation"]["tooth_correlation"], 0.25)
        self.assertLess(abs(document["S2"]["granulation"]["tooth_correlation"]), 0.2)
        for name in ("S1", "S2"):
            grain, true = document[name]["granulation"], lit_card().truth["swatches"][name]["granulation"]["index"]
            self.assertLess(abs(grain["index"] - true), max(0.08 * true, 2 * grain["u"]))

    def test_paper_shaded_in_its_hollows_and_paper_shaded_on_its_slopes_leave_the_same_grain(self) -> None:
        layout = build_card("HOLLOW-1", "130x90", [SwatchLabel("Settling"), SwatchLabel("Faint")], Design(tests=()))
        settling = paint_of_codes("Settling", ("PB29",), (1.0,), masstone_amount=2.0)
        faint = replace(settling, pigments=tuple(replace(p, grain=0.25 * p.grain) for p in settling.pigments))
        camera = Camera(pixels_per_mm=16.0)
        card = card_for_camera(layout, {"S1": settling, "S2": faint}, camera, 12)
        truth = card_truth(card)["swatches"]
        # Light from all sides reaches hollows less than ridges.
        shaded = replace(card, device=(card.device * (1 + 0.012 * card.relief[..., None])).astype(np.float32))
        for seen, in_hollows in ((card, False), (shaded, True)):
            found = photographed(seen, camera, LAMPS, "tiff-16")
            for name in ("S1", "S2"):
                grain, true = found.document["swatches"][name]["granulation"], truth[name]["granulation"]["index"]
                self.assertGreater(grain["tooth_correlation"], 0.3)
                self.assertLess(grain["shaded_index"], grain["index"])
                self.assertLess(abs(grain["index"] - true), max(0.06 * true, 0.06), (name, in_hollows))
            shading = self.shading(found)
            self.assertAlmostEqual(shading.in_hollows, 0.9 if in_hollows else 0.0, delta=0.25)

    def shading(self, measured: Measured) -> PaperShading:
        white = np.array(measured.document["zones"]["S1.paper"]["xyz"])
        places = [z.rect for z in measured.capture.layout.zones_of("paper")]
        papers, capture = measured.capture.layout.zones_of("paper"), measured.capture
        zones = [zone_pixels(capture, zone_light(capture, z, full_resolution=True)) for z in papers]
        texture = paper_texture(zones, measured.capture.calibration.blur_mm, measured.capture.calibration.noise_l)
        found = paper_shading(lit_shots(measured.capture, white, measured.shots), places, texture)
        assert found is not None
        return found

    def test_lamps_on_one_line_or_of_unknown_side_tell_nothing(self) -> None:
        measured = measured_with(3)
        rect, paper = lit_card().flat.card.layout.zone("S1.wash").rect, np.full(3, 90.0)
        flat, *lamps = lit_shots(measured.capture, paper, measured.shots)
        unknown = [replace(lamp, azimuth_deg=None) for lamp in lamps]
        line = [replace(lamps[0], azimuth_deg=0.0), replace(lamps[1], azimuth_deg=180.0)]
        for lights, words in (([flat], "fewer than two"), ([flat, *unknown], "fewer than two"), ([flat, *line], "on one line")):
            self.assertIn(words, getattr(hollows_of(lights, rect), "reason", ""))
        self.assertIn("too small", getattr(hollows_of([flat, *lamps], Rect(rect.x, rect.y, 3, 3)), "reason", ""))

    def test_what_lies_in_the_hollows_follows_them_and_what_does_not_is_told_apart(self) -> None:
        rng = np.random.default_rng(4)
        hollows, other = (banded(rng.standard_normal((240, 320)).astype(np.float32), 20.0, 0.0) for _ in range(2))
        place = Hollows(hollows, 20.0, 0.0)
        with_them, against_them, apart = (place.follow(0.3 + amount) for amount in (hollows, -hollows, other))
        assert with_them is not None and against_them is not None and apart is not None
        self.assertGreater(with_them.value, 0.9)
        self.assertLess(against_them.value, -0.9)
        self.assertLess(abs(apart.value), 0.2)
        self.assertLess(abs(apart.value), 2 * apart.u)
        self.assertIsNone(place.follow(np.full((240, 320), 0.3, np.float32)))

    def test_each_component_says_where_it_sits(self) -> None:
        lit, unlit = (measured_with(n).document["swatches"]["S1"]["separation"]["components"] for n in (3, 0))
        self.assertTrue(all(-1 <= c["tooth"] <= 1 for c in lit))
        self.assertTrue(all(c["tooth"] is None for c in unlit))

    def test_relief_and_pigment_add_as_the_definition_says(self) -> None:
        self.assertAlmostEqual(grain_index(4.0, 0.0, 0.0), 2.0)
        g, p, r = 1.7, 0.6, 0.5
        self.assertAlmostEqual(grain_index(g * g + p * p + 2 * r * g * p, p, r), g)
        self.assertEqual(grain_index(0.01, 0.5, 0.0), 0.0)
