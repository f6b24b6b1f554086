"""What is clipped on a card where no patch is, and a dark picture whose black is cut off."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.judging.clipped_light import ClippedLight, clipped_light
from gelvet.core.capture.judging.gates import clipping_gate, exposure_gate
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera, take_photograph, write_image
from gelvet.core.simulate.paint import paint_of_codes

PIXELS_PER_MM = 4.0
SIZE_MM = (100.0, 60.0)


def picture(clipped: tuple[slice, slice], kind: type[np.uint8] | type[np.uint16] = np.uint8) -> Picture:
    """A card with 10 mm of table around it."""
    top = np.iinfo(kind).max
    pixels = np.full((320, 480, 3), round(0.8 * top), dtype=kind)
    pixels[clipped] = top
    return Picture(pixels=pixels)


GEOMETRY = Geometry(matrix=np.array([[PIXELS_PER_MM, 0, 40.0], [0, PIXELS_PER_MM, 40.0], [0, 0, 1]]), size_mm=SIZE_MM, reprojection_px=0.0)


class WhatIsClipped(unittest.TestCase):
    def test_its_share_of_the_card_and_its_places(self) -> None:
        for kind in (np.uint8, np.uint16):
            corner = clipped_light(picture((slice(40, 120), slice(40, 160)), kind), GEOMETRY, SIZE_MM)
            self.assertAlmostEqual(corner.share, 20 * 30 / 6000, delta=0.005)
            self.assertEqual(set(corner.where), {Rect(x, y, 10, 10) for x in (0, 10, 20) for y in (0, 10)})

    def test_the_table_around_the_card_does_not_count_nor_do_glints(self) -> None:
        table = clipped_light(picture((slice(0, 38), slice(0, 480))), GEOMETRY, SIZE_MM)
        self.assertEqual((table.share, table.where), (0.0, ()))
        shimmer = picture((slice(0, 0), slice(0, 0)))
        shimmer.pixels[41::3, 41::3] = 255  # a ninth of it
        self.assertEqual(clipped_light(shimmer, GEOMETRY, SIZE_MM).share, 0.0)

    def test_the_gate_warns_before_a_patch_is_clipped_and_shows_where(self) -> None:
        places = (Rect(0, 0, 10, 10),)
        warned = clipping_gate(0.0, (), card=ClippedLight(0.1, places))
        self.assertEqual((warned.state, warned.where), ("warn", places))
        self.assertIn("10.0 % of the card is clipped", warned.advice)
        self.assertIn("0.5 % of the card", clipping_gate(0.0, (), card=ClippedLight(0.005, ())).advice)
        patch = clipping_gate(0.5, (Rect(20, 0, 5, 5),), card=ClippedLight(0.1, places))
        self.assertEqual((patch.state, patch.where), ("fail", (Rect(20, 0, 5, 5), *places)))


class ADarkPicture(unittest.TestCase):
    def gates(self, exposure: float) -> dict[str, dict[str, Any]]:
        camera = Camera(pixels_per_mm=10.0, tilt_deg=4.0, tone="linear", exposure=exposure)
        layout = build_card("DIM-1", "A6", [SwatchLabel("Any")], Design(tests=()))
        card = card_for_camera(layout, {"S1": paint_of_codes("Any", ("PB29",), (1.0,))}, camera, 3)
        shot = take_photograph(card, camera, 5, "tiff-16")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "dark.tif"
            write_image(shot, path)
            document = measure_image(path, card.layout, shot.reference).document
        return {gate["id"]: gate for gate in document["calibration"]["gates"]}

    def test_black_that_is_cut_off_says_to_expose_longer_though_steps_abound(self) -> None:
        dark = self.gates(0.06)
        self.assertEqual(dark["exposure"]["state"], "fail")
        self.assertIn("expose longer", dark["clipping"]["advice"])
        self.assertEqual(self.gates(0.8)["exposure"]["state"], "pass")

    def test_many_steps_do_with_less_light_but_not_with_next_to_none(self) -> None:
        found = [[exposure_gate(code, steps_abound=abound).state for code in (0.5, 0.4, 0.2, 0.1, 0.02)] for abound in (False, True)]
        self.assertEqual(found, [["pass", "warn", "fail", "fail", "fail"], ["pass", "pass", "pass", "warn", "fail"]])


if __name__ == "__main__":
    unittest.main()
