"""Sheen: paint that looks alike from every side is said to, however bright the lamp was."""

import unittest
from dataclasses import replace

from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera
from gelvet.core.simulate.paint import paint_of_codes
from tests.lamps import LAMPS, photographed

# Without a curve of its own: what is left is what the model of colour makes of dimmer light.
CAMERA = Camera(pixels_per_mm=16.0, tone="linear", sharpening=(0.0, 1.0))
VIVID = {"PB29": 0.8, "PB15": 0.5, "PV23": 0.3, "PR254": 1.0}


class Sheen(unittest.TestCase):
    def test_vivid_matte_paint_has_none_under_lamps_far_dimmer_than_the_even_light(self) -> None:
        layout = build_card("MATTE-1", "A5", [SwatchLabel(code) for code in VIVID], Design(tests=()))
        paints = {
            swatch.id: paint_of_codes(code, (code,), (1.0,), masstone_amount=amount)
            for swatch, (code, amount) in zip(layout.swatches, VIVID.items(), strict=True)
        }
        card = card_for_camera(layout, paints, CAMERA, 3)
        measured = photographed(card, CAMERA, [replace(lamp, exposure=0.3) for lamp in LAMPS], "tiff-16")
        for name, paint in paints.items():
            sheen = measured.document["swatches"][name]["sheen"]
            with self.subTest(paint=paint.name):
                self.assertLess(sheen["delta_e00"], 0.5)
                self.assertFalse(sheen["claimed"])
