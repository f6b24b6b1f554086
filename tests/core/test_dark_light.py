"""The dark end of a camera's curve, that no patch reaches: shots of one card in more and less light tell it."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import Calibration
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.pipeline import Measured, measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera, take_photograph, write_image
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import paint_of_codes

CAMERA = Camera(pixels_per_mm=12.0, tone="srgb", sharpening=(0.0, 1.0))
DARK = np.array([0.006, 0.01, 0.014, 0.02])


def _shot_with(lights: list[Lamp | float], paints: dict[str, float]) -> Measured:
    """A card of paints (code: amount) in even light, and under lamps or in even light of so many times the strength."""
    layout = build_card("DARK-1", "A6", [SwatchLabel(code) for code in paints], Design(tests=()))
    card = card_for_camera(
        layout,
        {
            s.id: paint_of_codes(code, (code,), (1.0,), masstone_amount=amount)
            for s, (code, amount) in zip(layout.swatches, paints.items(), strict=True)
        },
        CAMERA,
        8,
    )
    with tempfile.TemporaryDirectory() as folder:
        others, flat = [], take_photograph(card, CAMERA, 1, "jpeg-92")
        write_image(flat, Path(folder) / "flat.jpg")
        for number, light in enumerate(lights):
            path = Path(folder) / f"{number}.jpg"
            if isinstance(light, Lamp):
                write_image(take_photograph(card, CAMERA, 2 + number, "jpeg-92", light), path)
                others.append(ShotFile(path=path, light="rake", azimuth_deg=light.azimuth_deg, elevation_deg=light.elevation_deg))
            else:
                dimmer = replace(CAMERA, exposure=CAMERA.exposure * light)
                write_image(take_photograph(card, dimmer, 2 + number, "jpeg-92"), path)
                others.append(ShotFile(path=path, light="diffuse"))
        return measure_image(Path(folder) / "flat.jpg", layout, flat.reference, other_shots=others)


def _error(calibration: Calibration) -> Floats:
    """By what share the curve misses light of `DARK` of white, where it is right in the middle."""

    def told(light: Floats) -> Floats:
        code = np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)
        curve = calibration.lookup[:, 1]
        return np.asarray(np.interp(code, np.linspace(0, 1, len(curve)), curve))

    scale = told(np.array([0.3])) / 0.3
    return np.asarray(np.abs(told(DARK) / (DARK * scale) - 1))


class DarkLight(unittest.TestCase):
    def test_lamps_or_a_shorter_exposure_set_the_curve_right_below_the_patches(self) -> None:
        paints = {"PR254": 2.5, "PB15": 2.0}
        alone = _error(_shot_with([], paints).capture.calibration)
        self.assertGreater(alone.max(), 0.06)
        for name, lights in (("lamps", [Lamp(azimuth_deg=a, exposure=0.3) for a in (0.0, 120.0, 240.0)]), ("exposures", [0.4, 0.2])):
            with self.subTest(lights=name):
                measured = _shot_with(list(lights), paints)
                self.assertLess(_error(measured.capture.calibration).mean(), 0.4 * alone.mean())
                self.assertEqual(len(measured.document["calibration"]["dark_light"]["missing"]), 8)

    def test_one_paint_alone_could_as_well_have_a_sheen(self) -> None:
        measured = _shot_with([0.4], {"PR254": 2.5})
        self.assertIsNone(measured.document["calibration"]["dark_light"])
