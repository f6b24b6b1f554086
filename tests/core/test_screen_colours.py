"""Pictures whose colours were made for a screen: what a camera mixes of its channels for that, and what is cut off where it cannot."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.device import linear_part
from gelvet.core.capture.judging.clipped_light import ClippedLight
from gelvet.core.capture.judging.cut_colours import CutColours, cut_channels, cut_colours, cut_share
from gelvet.core.capture.judging.gates import clipping_gate
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.colour.difference import ciede2000
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera, take_photograph, write_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.truth import card_truth

SIZE_MM = (100.0, 60.0)
GEOMETRY = Geometry(matrix=np.array([[4.0, 0, 40.0], [0, 4.0, 40.0], [0, 0, 1]]), size_mm=SIZE_MM, reprojection_px=0.0)
PAINTS = {
    "S1": paint_of_codes("Earth red", ("PR101",), (1.0,), masstone_amount=2.2),
    "S2": paint_of_codes("Vivid yellow", ("PY35",), (1.0,), masstone_amount=2.2),
    "S3": paint_of_codes("Green", ("PG18",), (1.0,), masstone_amount=2.2),
}


def measured(for_screen: float) -> tuple[dict[str, Any], dict[str, Any]]:
    """A photograph's document and the card's truth."""
    camera = Camera(pixels_per_mm=12.5, tilt_deg=6.0, noise=0.003, for_screen=for_screen, saturation=0.0)
    layout = build_card("SCREEN", "A5", [SwatchLabel(paint.name) for paint in PAINTS.values()])
    shot = take_photograph(card_for_camera(layout, PAINTS, camera, 3), camera, 4, "tiff-16")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "shot.tif"
        write_image(shot, path)
        return measure_image(path, layout, shot.reference).document, card_truth(shot.card)


class MadeForAScreen(unittest.TestCase):
    """The device was taken for one that mixes its channels little: zones were several ΔE00 off, and what was left of those whose blue
    is cut off was measured."""

    def test_what_the_picture_holds_is_measured_and_what_it_cannot_hold_is_named(self) -> None:
        document, truth = measured(1.0)
        zones = {name: (document["zones"][name], true["lab"]) for name, true in truth["zones"].items() if not name.endswith(".gradient")}
        errors = {n: float(ciede2000(np.array(z["lab"]), np.array(lab))) for n, (z, lab) in zones.items() if z["lab"] is not None}
        self.assertGreater(len(errors), 15)
        self.assertLess(float(np.median(list(errors.values()))), 0.3)
        self.assertLess(max(errors.values()), 1.5, errors)
        refused = {name: zone["absent"] for name, (zone, _) in zones.items() if zone["lab"] is None}
        self.assertEqual(refused["S2.masstone"], "its blue is cut off at black, so it is more vivid than the picture can hold")
        for reason in refused.values():
            self.assertIn("cut off at black", reason)
        clipping = next(gate for gate in document["calibration"]["gates"] if gate["id"] == "clipping")
        self.assertEqual(clipping["state"], "warn")
        self.assertIn("red and blue are cut off at black", clipping["advice"])
        self.assertTrue(clipping["where_mm"])

    def test_a_camera_that_keeps_its_own_colours_cuts_nothing_off(self) -> None:
        document, _ = measured(0.0)
        self.assertIsNotNone(document["zones"]["S2.masstone"]["lab"])
        self.assertEqual({g["state"] for g in document["calibration"]["gates"] if g["id"] == "clipping"}, {"pass"})


class CutOff(unittest.TestCase):
    RECT = Rect(20, 20, 20, 20)

    def picture(self, blue: float, noise: float) -> Picture:
        """Grey paper, and in the middle a yellow whose `blue` is stored as it is or as nothing."""
        light = np.full((320, 480, 3), 0.8) + np.random.default_rng(3).normal(0, noise, (320, 480, 3))
        light[120:200, 120:200, 2] += blue - 0.8
        return Picture(pixels=(np.clip(light, 0, 1) * 65535).astype(np.uint16))

    def test_the_zones_that_lost_a_channel_and_its_name(self) -> None:
        vivid = self.picture(-0.001, 0.002)
        zones = [self.RECT, Rect(50, 20, 20, 20), Rect(38, 20, 20, 20), Rect(90, 50, 40, 40)]
        self.assertEqual(cut_colours(vivid, GEOMETRY, zones), CutColours((self.RECT,), 4, ("blue",)))
        self.assertEqual(cut_channels(vivid, GEOMETRY, self.RECT), ("blue",))

    def test_the_noise_of_what_is_merely_dark_is_not_cut_off_nor_are_print_and_rims(self) -> None:
        dark = self.picture(0.003, 0.002)
        self.assertGreater((dark.pixels == 0).sum(), 200)
        self.assertLess(cut_share(dark, GEOMETRY, self.RECT), 0.15)
        self.assertEqual(cut_channels(dark, GEOMETRY, self.RECT), ())
        black = Picture(pixels=np.where(np.arange(480)[None, :, None] < 240, 0, self.picture(0.8, 0.0).pixels).astype(np.uint16))
        self.assertEqual(cut_channels(black, GEOMETRY, Rect(5, 5, 20, 20)), ())
        rimmed = self.picture(0.4, 0.0)
        rimmed.pixels[118:124, 118:202, 2] = 0
        self.assertEqual(cut_share(rimmed, GEOMETRY, self.RECT), 0.0)

    def test_pixels_that_noise_lifts_above_black_do_not_stand_for_the_rest(self) -> None:
        curve = np.repeat(np.linspace(0, 1, 65536, dtype=np.float32)[:, None], 3, axis=1)
        cut, fair = (linear_part(self.picture(blue, 0.002), GEOMETRY, self.RECT.inset(2), 4.0, curve) for blue in (0.0, 0.004))
        self.assertLess(cut[1].mean(), 0.05)
        self.assertGreater(fair[1].mean(), 0.95)
        self.assertAlmostEqual(float(fair[0][fair[1]][:, 2].mean()), 0.004, delta=0.0002)

    def test_the_gate_names_what_to_do_unless_something_worse_is_clipped(self) -> None:
        cut = CutColours((Rect(0, 0, 10, 10),), 8, ("red", "blue"))
        said = clipping_gate(0.0, (), cut=cut)
        self.assertEqual((said.state, said.where), ("warn", cut.where))
        self.assertIn("In 1 of 8 zones red and blue are cut off", said.advice)
        self.assertEqual(clipping_gate(0.0, (), cut=CutColours(many=8)).state, "pass")
        worse = clipping_gate(0.3, (), cut=cut)
        self.assertEqual(worse.state, "fail")
        self.assertIn("expose one step less", worse.advice)
        self.assertIn("2.0 % of the card", clipping_gate(0.0, (), card=ClippedLight(0.02, ()), cut=cut).advice)


if __name__ == "__main__":
    unittest.main()
