"""Glints, on lit cards whose flakes are known and in known fields."""

import json
import tempfile
import unittest
import warnings
from dataclasses import replace
from pathlib import Path
from types import SimpleNamespace
from typing import cast

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.card.mix_grid import build_mix_card
from gelvet.core.compare.profile_words import profile_phrases
from gelvet.core.measure.low_lamps.glints import ShotGlints, glints_in
from gelvet.core.measure.low_lamps.sparkle import FoundGlints, glint_light, glints_of, sparkle
from gelvet.core.measure.low_lamps.spot_filter import matched_to_spots
from gelvet.core.measure.quantities.texture import Sparkle
from gelvet.core.measure.values import Absent, Figure
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera
from gelvet.core.simulate.flakes import GLARE
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard
from tests.lamps import LAMPS, lit_card, measured_with, photographed

CAMERA = Camera(pixels_per_mm=20.0)


class Sparkling(unittest.TestCase):
    def test_glints_are_counted_where_there_are_flakes_and_nowhere_else(self) -> None:
        card = lit_card()
        document = measured_with(3).document
        sparkling, matte = (document["swatches"][s]["sparkle"] for s in ("S1", "S2"))
        true = card.truth["glints"]["S1"]
        self.assertGreater(true, 0.8)
        self.assertLess(abs(sparkling["density"] / true - 1), 0.4)
        self.assertLessEqual(matte["density"], 0.1)
        self.assertEqual(sparkling["shots"], 4)
        self.assertGreater(document["swatches"]["S1"]["sheen"]["delta_e00"], 0)
        self.assertFalse(document["swatches"]["S2"]["sheen"]["claimed"])

    def test_a_lamp_said_to_stand_on_the_wrong_side_is_told_and_reads_no_hollows_as_ridges(self) -> None:
        card = lit_card()
        swapped = [replace(s, azimuth_deg=((s.azimuth_deg or 0) + 180) % 360) for s in card.shots]
        right = measured_with(3).document
        wrong = measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=swapped).document
        self.assertNotIn("warnings", right["calibration"])
        self.assertGreater(right["swatches"]["S1"]["granulation"]["tooth_correlation"], 0.2)
        told = wrong["calibration"]["warnings"]
        self.assertEqual(len(told), 3)
        self.assertRegex(told[0], "lamp-0.jpg: its light comes from about (0|1|359)°, not from 180°")
        self.assertIsNone(wrong["swatches"]["S1"]["granulation"]["tooth_correlation"])
        self.assertEqual(wrong["swatches"]["S1"]["sparkle"]["density"], right["swatches"]["S1"]["sparkle"]["density"])

    def test_one_shot_measures_no_sparkle_rather_than_none(self) -> None:
        swatch = measured_with(0).document["swatches"]["S1"]
        for quantity in ("sparkle", "sheen"):
            self.assertIn("low lamp", swatch[quantity]["absent"])
        self.assertIsNone(swatch["sparkle"]["density"])

    def test_spoilt_lamp_shots_give_figures_or_reasons_and_never_nonsense(self) -> None:
        import cv2

        card = lit_card()
        pixels = cv2.imread(str(card.shots[0].path))
        assert pixels is not None
        dark, bright = pixels.copy(), pixels.copy()
        dark[:] = np.clip(dark * 0.35, 0, 255).astype(np.uint8)
        zone = card.flat.card.layout.zone("S1.wash").rect
        place = measured_with(3).shots[0].geometry.bounds_px(zone, pixels.shape)
        assert place is not None
        bright[place] = 255
        with tempfile.TemporaryDirectory() as folder, warnings.catch_warnings():
            warnings.simplefilter("error", RuntimeWarning)
            shots = []
            for name, image, azimuth in (("dark.png", dark, 0.0), ("bright.png", bright.astype(np.uint16) * 257, 120.0)):
                cv2.imwrite(str(Path(folder) / name), image)
                shots.append(ShotFile(path=Path(folder) / name, light="rake", azimuth_deg=azimuth, elevation_deg=20))
            document = measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=shots).document
        json.dumps(document, allow_nan=False)
        self.assertLess(document["swatches"]["S2"]["sparkle"]["density"], 0.5)

    def test_a_mix_keeps_its_share_of_the_sparkle(self) -> None:
        layout = build_mix_card("LITMIX-1", "130x90", [SwatchLabel("Sparkling")], [SwatchLabel("Plain")])
        plain = paint_of_codes("Plain", ("PV19",), (1.0,), masstone_amount=2.0)
        paints = {s.id: replace(plain, name=s.label, flakes_per_cm2=1500.0 if "Sparkling" in s.label else 0.0) for s in layout.swatches}
        card = card_for_camera(layout, paints, CAMERA, 3)
        measured = photographed(card, CAMERA, LAMPS)
        zones = measured.document["zones"]
        mixes = layout.zones_of("mix")
        found, true = 0.0, 0.0
        for zone in mixes:
            rect = zone.rect.inset(0.8)
            true += _glints_a_lamp(card, rect)
            found += zones[zone.id]["glints"]["density"] * rect.width * rect.height / 100
        self.assertGreater(true, 5)
        self.assertLess(abs(found / true - 1), 0.3)
        self.assertNotIn("glints", zones[layout.zones_of("paper")[0].id])

    def test_black_paper_tells_its_own_glints_and_turn_of_colour(self) -> None:
        layout = build_card("BLACK-1", "130x90", [SwatchLabel("Sparkling"), SwatchLabel("Plain")], Design(tests=("black-paper",)))
        plain = paint_of_codes("Plain", ("PV19",), (1.0,), masstone_amount=2.0)
        paints = {s.id: replace(plain, flakes_per_cm2=2500.0 if s.label == "Sparkling" else 0.0) for s in layout.swatches}
        card = card_for_camera(layout, paints, CAMERA, 3)
        measured = photographed(card, CAMERA, LAMPS)
        sparkling, matte = (measured.document["swatches"][s.id] for s in layout.swatches)
        rect = next(z.rect for z in layout.zones_of("black_paper") if z.swatch == layout.swatches[0].id).inset(0.8)
        true = _glints_a_lamp(card, rect) * 100 / (rect.width * rect.height)
        self.assertGreater(true, 2)
        self.assertLess(abs(sparkling["sparkle"]["on_black"] / true - 1), 0.4)
        self.assertLess(matte["sparkle"]["on_black"], 0.3)
        self.assertFalse(matte["sheen"]["on_black"]["claimed"])
        views = measured.views[layout.swatches[0].id]
        self.assertEqual({n for n in views if n.startswith("black-")}, {"black-even", "black-000", "black-120", "black-240"})
        self.assertLess(views["black-even"].mean(), 0.6 * views["light-even"].mean())
        said = [p.text for p in profile_phrases(sparkling) if p.key == "on_black"]
        self.assertEqual(len(said), 1)
        self.assertIn(f"it sparkles by {sparkling['sparkle']['on_black']:.1f} glints", said[0])
        self.assertIn("does not sparkle", next(p.text for p in profile_phrases(matte) if p.key == "on_black"))
        self.assertFalse([p for p in profile_phrases(measured_with(3).document["swatches"]["S1"]) if p.key == "on_black"])

    def test_spots_come_out_with_their_energy_in_coloured_noise(self) -> None:
        import cv2

        rng = np.random.default_rng(8)
        field = np.asarray(cv2.GaussianBlur(rng.standard_normal((300, 400)).astype(np.float32), (0, 0), 4.0))
        field = 0.1 * field / field.std() + 0.01 * rng.standard_normal(field.shape).astype(np.float32)
        places = [(60, 70), (150, 200), (240, 330)]
        y, x = np.mgrid[:300, :400]
        for row, column in places:
            field += 2.0 * np.exp(-((y - row) ** 2 + (x - column) ** 2) / (2 * 0.8**2)) / (2 * np.pi * 0.8**2)
        found = matched_to_spots(np.asarray(field, dtype=np.float32), [0.8], 20.0)
        energy, sigma = found.energy, found.sigma
        for row, column in places:
            self.assertAlmostEqual(float(energy[row, column]), 2.0, delta=0.25)
            self.assertGreater(float(energy[row, column] / sigma[row, column]), 6)
        away = np.ones(field.shape, bool)
        for row, column in places:
            away[row - 6 : row + 7, column - 6 : column + 7] = False
        self.assertLess(float((energy / sigma)[away].max()), 6)

    def test_bright_spots_do_not_make_dark_ones(self) -> None:
        """How dark spots get sets how bright a glint must be; the rims that the filter gives to bright ones are no spots."""
        import cv2

        rng = np.random.default_rng(9)
        field = np.asarray(cv2.GaussianBlur(rng.standard_normal((400, 400)).astype(np.float32), (0, 0), 4.0))
        field = 0.1 * field / field.std() + 0.01 * rng.standard_normal(field.shape).astype(np.float32)
        bright = np.zeros_like(field)
        bright[rng.integers(10, 390, 60), rng.integers(10, 390, 60)] = 40.0
        found = matched_to_spots(np.asarray(field + cv2.GaussianBlur(bright, (0, 0), 0.8), dtype=np.float32), [0.8], 20.0)
        self.assertGreater(float(-(found.energy / found.sigma).min()), 15)
        self.assertLess(float((found.dark / found.sigma).max()), 10)

    def test_wide_flakes_are_found_with_all_their_light(self) -> None:
        for flake_mm in (0.0, 0.025, 0.045):
            with self.subTest(flake_mm=flake_mm):
                true = [0.004, 0.006, 0.012, 0.02]
                found = glints_in(_lamps({(30 + 50 * i, 40 + 50 * i): e for i, e in enumerate(true)}, flake_mm), _PLACE, _SCALE)[0]
                self.assertEqual(len(found.energy_mm2), 4)
                for measured, energy in zip(sorted(found.energy_mm2), true, strict=True):
                    self.assertAlmostEqual(measured / energy, 1, delta=0.2)

    def test_rings_round_strong_glints_neither_count_nor_hide_faint_ones(self) -> None:
        rng = np.random.default_rng(3)
        strong = {(20 + 40 * (i // 6), 20 + 40 * (i % 6)): 0.03 for i in range(30)}
        faint = {(row + 20, column + 20): 0.0045 for row, column in list(strong)[:10]}
        found = glints_in(_lamps(strong | faint, 0.03, rng), _PLACE, _SCALE)[0]
        self.assertEqual(len(found.energy_mm2), 40)

    def test_steep_slopes_of_rough_paper_are_no_glints_where_lamps_stand_across(self) -> None:
        for azimuths in ((10.0, 100.0, 190.0, 280.0), (0.0, 120.0, 240.0), (0.0, 180.0)):
            with self.subTest(azimuths=azimuths):
                for told, number in ((False, 50), (True, 20)):
                    found = glints_in(_on_slopes(azimuths, told=told), _PLACE, _SCALE)[0]
                    self.assertEqual(len(found.energy_mm2), number)

    def test_bright_slopes_are_no_glints_where_others_lose_nearly_all_light(self) -> None:
        """A slope cannot lose more than its light, and may be lit several times over: dark ones that are nearly black tell of those."""
        for left, told in ((0.04, 0), (0.5, 35)):
            with self.subTest(left=left):
                shots = glints_in(_rough(brightest=3.5, darkest=left), _PLACE, _SCALE)
                for shot in shots:
                    self.assertAlmostEqual(len(shot.energy_mm2), told, delta=0.2 * told)

    def test_where_relief_drowns_glints_none_are_said_to_be_missing(self) -> None:
        def found(glints: int, faintest_mm2: float) -> list[FoundGlints]:
            energy, places = np.full(glints, 0.02), np.zeros((glints, 2))
            shot = ShotGlints(energy, places, None, 0.0, clipped=False, judged_share=1.0, faintest_mm2=faintest_mm2)
            return [FoundGlints("wash", 3.0, [shot, shot])]

        drowned = sparkle(found(0, 0.006), 3)
        assert isinstance(drowned, Absent)
        self.assertIn("raise the lamps", drowned.reason)
        self.assertIsNone(glints_of(found(0, 0.006), ("wash",)))
        self.assertIsNone(glint_light(found(0, 0.006), "wash"))
        for glints, faintest_mm2 in ((20, 0.006), (0, 0.001)):
            told = sparkle(found(glints, faintest_mm2), 3)
            assert isinstance(told, Sparkle)
            self.assertAlmostEqual(told.density, glints / 3.0)
            self.assertEqual(glints_of(found(glints, faintest_mm2), ("wash",)), Figure(told.density, told.u))


_SCALE, _PLACE = 20.0, Rect(0, 0, 12.5, 11.5)


def _lamps(glints: dict[tuple[int, int], float], flake_mm: float, rng: np.random.Generator | None = None) -> list[LitShot]:
    """Two lamps on paper of some relief, the first with `glints` of so much mm² at row and column, blurred by half a pixel."""
    import cv2

    rng = rng or np.random.default_rng(2)
    y, x = np.mgrid[: int(_PLACE.height * _SCALE), : int(_PLACE.width * _SCALE)]
    spread = float(np.hypot(0.5, flake_mm * _SCALE))
    shots = []
    for lit in (glints, {}):
        relief = np.asarray(cv2.GaussianBlur(rng.standard_normal(x.shape), (0, 0), 4.0))
        light = 0.5 * (1 + 0.06 * relief / relief.std() + 0.006 * rng.standard_normal(x.shape))
        for (row, column), energy in lit.items():
            light += energy * _SCALE**2 * np.exp(-((y - row) ** 2 + (x - column) ** 2) / (2 * spread**2)) / (2 * np.pi * spread**2)
        shots.append(_KnownLight(np.repeat(light[..., None], 3, axis=2).astype(np.float32)))
    return cast("list[LitShot]", shots)


def _rough(brightest: float, darkest: float) -> list[LitShot]:
    """Two lamps on paint, each with forty slopes so many times as bright as it and forty that keep such a share of its light."""
    import cv2

    rng = np.random.default_rng(5)
    shape = (int(_PLACE.height * _SCALE), int(_PLACE.width * _SCALE))
    shots = []
    for _ in range(2):
        places = rng.permutation(np.mgrid[8:224:16, 8:244:16].reshape(2, -1).T)
        slopes = np.zeros((2, *shape))
        for field, own in zip(slopes, (places[:40], places[40:80]), strict=True):
            field[tuple(own.T)] = 2 * np.pi * 2.0**2
        bright, dark = (cv2.GaussianBlur(field, (0, 0), 2.0) for field in slopes)
        relief = np.asarray(cv2.GaussianBlur(rng.standard_normal(shape), (0, 0), 4.0))
        light = 0.3 * (1 + 0.1 * relief / relief.std()) * (1 + (brightest - 1) * bright) * (1 - (1 - darkest) * dark)
        light += 0.002 * rng.standard_normal(shape)
        shots.append(_KnownLight(np.repeat(light[..., None], 3, axis=2).astype(np.float32)))
    return cast("list[LitShot]", shots)


def _on_slopes(azimuths: tuple[float, ...], *, told: bool) -> list[LitShot]:
    """Lamps around paper with thirty steep slopes that face the first one, in whose light twenty flakes shine as well."""
    import cv2

    rng = np.random.default_rng(4)
    shape = (int(_PLACE.height * _SCALE), int(_PLACE.width * _SCALE))
    slopes, flakes = np.zeros((2, *shape))
    places = rng.permutation(np.mgrid[10:220:14, 10:240:14].reshape(2, -1).T)
    slopes[tuple(places[:30].T)], flakes[tuple(places[30:50].T)] = 0.005 * _SCALE**2, 0.008 * _SCALE**2
    shots = []
    for azimuth in azimuths:
        spots = slopes * np.cos(np.radians(azimuth - azimuths[0])) + flakes * (azimuth == azimuths[0])
        light = 0.7 + cv2.GaussianBlur(spots, (0, 0), 0.8) + 0.004 * rng.standard_normal(shape)
        shots.append(_KnownLight(np.repeat(light[..., None], 3, axis=2).astype(np.float32), azimuth if told else None))
    return cast("list[LitShot]", shots)


class _KnownLight:
    """Paper-relative light as a device would have given it, without the device."""

    blur_px = 0.5
    capture = SimpleNamespace(
        calibration=SimpleNamespace(geometry=SimpleNamespace(pixels_per_mm=_SCALE)), picture=SimpleNamespace(coarse_colour=False)
    )

    raking = True

    def __init__(self, light: Floats, azimuth_deg: float | None = None) -> None:
        self.light, self.azimuth_deg = light, azimuth_deg

    def relative(self, rect: Rect, pixels_per_mm: float) -> tuple[Floats, Mask]:
        return self.light, np.ones(self.light.shape[:2], dtype=bool)


def _glints_a_lamp(card: PaintedCard, rect: Rect) -> float:
    """How many flakes in a place shine by more than 0.002 mm² of the paper's light, the mean of the lamps."""
    x, y = card.flakes.places_mm.T
    bright = GLARE * card.flakes.sizes_mm**2 / (card.paper_xyz[1] / 100) > 0.002
    inside = bright & (x > rect.x) & (x < rect.right) & (y > rect.y) & (y < rect.bottom)
    return float(np.mean([(inside & card.flakes.facing(lamp.azimuth_deg, lamp.elevation_deg)).sum() for lamp in LAMPS]))
