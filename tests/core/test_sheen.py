"""Sheen: paint that looks alike from every side is said to, however bright the lamp was and however the camera stores its dark."""

import unittest
from dataclasses import replace

import cv2
import numpy as np

from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.low_lamps.sheen import body_mean
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from tests.lamps import LAMPS, lit_card, measured_with, photographed

# Without a curve of its own: what is left is what the model of colour makes of dimmer light.
STRAIGHT = Camera(pixels_per_mm=11.0, tone="linear", sharpening=(0.0, 1.0))
VIVID = {"PB29": 0.8, "PB15": 0.5, "PV23": 0.3, "PR254": 1.0}


def _card(amounts: dict[str, float], sheet: str = "A5") -> tuple[Layout, dict[str, SimulatedPaint]]:
    layout = build_card("MATTE-1", sheet, [SwatchLabel(code) for code in amounts], Design(tests=()))
    return layout, {
        swatch.id: paint_of_codes(code, (code,), (1.0,), masstone_amount=amount)
        for swatch, (code, amount) in zip(layout.swatches, amounts.items(), strict=True)
    }


class Sheen(unittest.TestCase):
    def test_vivid_matte_paint_has_none_under_lamps_far_dimmer_than_the_even_light(self) -> None:
        layout, paints = _card(VIVID)
        card = card_for_camera(layout, paints, STRAIGHT, 3)
        measured = photographed(card, STRAIGHT, [replace(lamp, exposure=0.3) for lamp in LAMPS], "tiff-16")
        for name, paint in paints.items():
            sheen = measured.document["swatches"][name]["sheen"]
            with self.subTest(paint=paint.name):
                self.assertLess(sheen["delta_e00"], 0.5)
                self.assertLess(sheen["u"], 0.5)
                self.assertFalse(sheen["claimed"])

    def test_dark_matte_paint_in_the_toe_of_a_cameras_curve_has_none(self) -> None:
        layout, paints = _card({"PB15": 2.0, "PR254": 2.5}, "A6")
        camera = Camera(pixels_per_mm=11.0, contrast=0.0)
        measured = photographed(card_for_camera(layout, paints, camera, 3), camera, [replace(lamp, exposure=0.6) for lamp in LAMPS])
        for name in paints:
            sheen = measured.document["swatches"][name]["sheen"]
            self.assertLess(sheen["delta_e00"], 0.7)
            self.assertLess(sheen["delta_e00"], 2 * sheen["u"])
            self.assertFalse(sheen["claimed"])

    def test_relief_that_a_low_lamp_shades_is_no_sheen_of_granulating_paint(self) -> None:
        rng = np.random.default_rng(5)
        grain = np.exp(0.5 * cv2.GaussianBlur(rng.standard_normal((300, 300)), (0, 0), 2.0) / 0.14)
        even = np.stack([70 * 10 ** (-0.5 * grain), 80 * 10 ** (-0.8 * grain), 75 * 10 ** (-0.3 * grain)], axis=-1)
        relief = cv2.GaussianBlur(rng.standard_normal((300, 300)), (0, 0), 2.0) / 0.14
        shaded = even * np.clip(1 + 0.15 * relief, 0.1, None)[..., None]
        glinting = shaded.copy()
        glinting[::17, ::11] += 60.0  # a spot in 187
        mean = [xyz_to_lab(body_mean(xyz.reshape(-1, 3))) for xyz in (even, shaded, glinting)]
        median = [xyz_to_lab(np.median(xyz.reshape(-1, 3), axis=0)) for xyz in (even, shaded)]
        self.assertGreater(float(ciede2000(*median)), 0.25)
        self.assertLess(float(ciede2000(mean[0], mean[1])), 0.15)
        self.assertLess(float(ciede2000(mean[1], mean[2])), 0.3)

    def test_paint_that_turns_under_one_lamp_is_told_by_how_much(self) -> None:
        card = lit_card()
        pixels = cv2.imread(str(card.shots[0].path))
        assert pixels is not None
        path = card.image.with_name("turned.png")
        # A body that turns redder on one side: the whole masstone's red, as a film of interference would.
        place = measured_with(3).shots[0].geometry.bounds_px(card.flat.card.layout.zone("S2.masstone").rect, pixels.shape)
        assert place is not None
        red = pixels[place][..., 2].astype(float) / 255
        pixels[place][..., 2] = np.clip((red**2.2 + 0.01) ** (1 / 2.2) * 255, 0, 255).astype(np.uint8)
        cv2.imwrite(str(path), pixels)
        shots = (replace(card.shots[0], path=path), *card.shots[1:])
        plain = measured_with(3).document["swatches"]
        turned = measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=shots).document["swatches"]
        self.assertFalse(plain["S2"]["sheen"]["claimed"])
        self.assertTrue(turned["S2"]["sheen"]["claimed"])
        self.assertGreater(turned["S2"]["sheen"]["delta_e00"], 4)
        self.assertFalse(turned["S1"]["sheen"]["claimed"])

    def test_a_camera_on_automatic_that_bends_one_shot_otherwise_is_told_and_its_colours_left_out(self) -> None:
        card = lit_card()
        shots = []
        for number, shot in enumerate(card.shots):
            pixels = cv2.imread(str(shot.path))
            assert pixels is not None
            path = card.image.with_name(f"automatic-{number}.png")
            cv2.imwrite(str(path), np.clip((pixels / 255.0) ** 0.95 * 255, 0, 255).astype(np.uint8))
            shots.append(replace(shot, path=path))
        flat, plain = card.flat, measured_with(3).document
        one = measure_image(card.image, flat.card.layout, flat.reference, other_shots=(shots[0], *card.shots[1:])).document
        every = measure_image(card.image, flat.card.layout, flat.reference, other_shots=shots).document
        self.assertNotIn("warnings", plain["calibration"])
        self.assertEqual(len(one["calibration"]["warnings"]), 1)
        self.assertRegex(one["calibration"]["warnings"][0], "automatic-0.png: stored with [3-7] % less contrast than the even shot")
        for name in ("S1", "S2"):
            self.assertFalse(one["swatches"][name]["sheen"]["claimed"])
            self.assertIn("do not compare", every["swatches"][name]["sheen"]["absent"])
        self.assertAlmostEqual(one["swatches"]["S1"]["sparkle"]["density"] / plain["swatches"]["S1"]["sparkle"]["density"], 1, delta=0.1)

    def test_lamp_shots_through_another_device_are_told_and_claim_no_sheen(self) -> None:
        card = lit_card()
        crosstalk = np.array([[0.75, 0.2, 0.05], [0.1, 0.8, 0.1], [0.02, 0.18, 0.8]])
        shots = []
        for number, shot in enumerate(card.shots):
            pixels = cv2.imread(str(shot.path))
            assert pixels is not None
            path = card.image.with_name(f"other-device-{number}.png")
            light = (pixels / 255.0) ** 2.2 @ crosstalk
            cv2.imwrite(str(path), np.clip(light ** (1 / 2.2) * 255, 0, 255).astype(np.uint8))
            shots.append(replace(shot, path=path))
        plain = measured_with(3).document
        found = measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=shots).document
        self.assertRegex(found["calibration"]["warnings"][0], "other-device-0.png: its reference patches differ by [2-9].* another device")
        for name in ("S1", "S2"):
            self.assertIn("do not compare", found["swatches"][name]["sheen"]["absent"])
        self.assertAlmostEqual(found["swatches"]["S1"]["sparkle"]["density"] / plain["swatches"]["S1"]["sparkle"]["density"], 1, delta=0.15)
