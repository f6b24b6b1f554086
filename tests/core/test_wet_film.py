"""Paint captured while it was wet, through colours learnt from dry things."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.colour.wet_film import DRY_SURFACE, WetFilm
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.quantities.colour import DilutionPath, Drying
from gelvet.core.measure.values import ZoneColour
from gelvet.core.measure.water.drying import drying
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.files import SimulatedCapture, reference_of, write_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import State, paint_card
from gelvet.core.simulate.scanner import Scanner, ScannerKind, device_weights, scan
from gelvet.core.simulate.truth import card_truth

VIVID = ("PB15", "PV23", "PG7", "PR254")


class Surface(unittest.TestCase):
    def test_a_linear_model_needs_no_film(self) -> None:
        matrix = np.array([[0.6, 0.3, 0.1], [0.2, 0.7, 0.1], [0.0, 0.1, 0.7]]) * 100
        white = np.linalg.solve(matrix.T, WHITE_D50)
        model, film = ColourModel("linear", matrix), WetFilm(white)
        light = np.random.default_rng(1).uniform(0.05, 0.9, (50, 3))
        np.testing.assert_allclose(film.wetted(model.to_xyz(film.dried(light))), model.to_xyz(light), rtol=1e-9)

    def test_black_stays_black_and_white_stays_white(self) -> None:
        film = WetFilm(np.array([0.9, 0.95, 0.8]))
        np.testing.assert_allclose(film.dried(film.white), film.white)
        np.testing.assert_allclose(film.dried(np.zeros(3)), DRY_SURFACE * film.white)
        self.assertTrue((film.wetted(np.zeros((2, 3))) > 0).all())

    def test_no_more_surface_is_to_come_than_the_darkest_channel_gained(self) -> None:
        film = WetFilm(np.array([0.9, 0.95, 0.8]))
        wet = film.white * [0.003, 0.2, 0.7]
        self.assertEqual(film.beside(wet, wet).surface, 0.0)
        self.assertAlmostEqual(film.beside(wet, 0.996 * wet + 0.004 * film.white).surface, 0.004)
        self.assertEqual(film.beside(wet, 1.3 * wet + 0.02).surface, DRY_SURFACE)
        self.assertEqual(film.beside(wet, 0.5 * wet).surface, 0.0)
        np.testing.assert_allclose(film.beside(wet, wet).wetted(np.full(3, 40.0)), 40.0)


class VividPaint(unittest.TestCase):
    def test_what_drying_does_to_vivid_masstones_is_seen_by_three_narrow_lamps(self) -> None:
        layout = build_card("WET-01", "A5", [SwatchLabel(code) for code in VIVID])
        paints = {s.id: paint_of_codes(s.label, (s.label,), (1.0,)) for s in layout.swatches}
        scanner = Scanner(kind="three-led", noise=0.001, relief_shading=0.004)
        states: tuple[State, State] = ("dry", "wet")
        cards = [paint_card(layout, paints, device_weights(scanner.kind), seed=4, pixels_per_mm=16.0, state=state) for state in states]
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder) / f"{state}.tif" for state in states]
            for number, (card, path) in enumerate(zip(cards, paths, strict=True)):
                image = scan(card, scanner, number)
                write_image(SimulatedCapture(card=card, image=image, reference=reference_of(card), device=scanner), path)
            wet = ShotFile(path=paths[1], state="wet")
            both = measure_image(paths[0], layout, reference_of(cards[0]), other_shots=[wet]).document["swatches"]
            alone = measure_image(paths[1], layout, reference_of(cards[1]), state="wet").document["zones"]
        dry, moist = (card_truth(card) for card in cards)
        for name, paint in paints.items():
            with self.subTest(paint.name):
                true, before = (np.array(t["swatches"][name]["masstone"]["lab"]) for t in (dry, moist))
                found = both[name]["drying"]["masstone"]
                # Read as deeper bands, these were 0.1 to 16 ΔE00 and 2.5 to 5 L* off.
                self.assertAlmostEqual(found["delta_e00"], float(ciede2000(before, true)), delta=0.8)
                self.assertAlmostEqual(found["delta_L"], float(true[0] - before[0]), delta=1.4)
                seen, real = (np.array(zones[f"{name}.masstone"]["lab"]) for zones in (alone, moist["zones"]))
                self.assertLess(float(ciede2000(seen, real)), 5.5)  # the green was 13 off


class AnotherDevice(unittest.TestCase):
    def test_a_wet_shot_by_another_device_gives_no_drying_shift_and_says_why(self) -> None:
        layout = build_card("WET-02", "A6", [SwatchLabel("PB29")])
        paints = {"S1": paint_of_codes("Squall", ("PB29", "PR101"), (0.66, 0.34))}
        with tempfile.TemporaryDirectory() as folder:
            shots: dict[str, Path] = {}
            taken: tuple[tuple[State, ScannerKind], ...] = (("dry", "white-led"), ("wet", "white-led"), ("wet", "three-led"))
            for state, kind in taken:
                scanner = Scanner(kind=kind, dpi=200)
                card = paint_card(layout, paints, device_weights(kind), seed=4, pixels_per_mm=12.0, state=state)
                shots[state + kind] = path = Path(folder) / f"{state}-{kind}.tif"
                write_image(
                    SimulatedCapture(card=card, image=scan(card, scanner, len(shots)), reference=reference_of(card), device=scanner), path
                )
            alike, unlike = (
                measure_image(shots["drywhite-led"], layout, reference_of(card), other_shots=[ShotFile(path=shots[name], state="wet")])
                for name in ("wetwhite-led", "wetthree-led")
            )
        self.assertIsNone(alike.document["swatches"]["S1"]["drying"]["absent"])
        self.assertIn("its reference patches differ by", unlike.document["swatches"]["S1"]["drying"]["absent"])
        self.assertIsNotNone(unlike.document["swatches"]["S1"]["masstone"]["lab"])

    def test_what_the_two_shots_see_differently_widens_the_shift(self) -> None:
        paper = 0.9 * WHITE_D50
        light = np.linspace(0.1, 0.8, 30)[:, None] * WHITE_D50
        deepest = ZoneColour(xyz=light[0], sd=np.zeros(3), u=0.5, u_lab=np.full(3, 0.5), u_spatial=0.1, used_fraction=1.0, beyond_gamut=0.0)
        depth = np.log10(paper / light).max(axis=1)
        path = DilutionPath(
            depth=depth, xyz=light, masstone=deepest, masstone_depth=float(depth[0]), half_xyz=light[12], wash_xyz=light[-1],
            gradient_ends_at=None, by_place=False,
        )  # fmt: skip
        steady, moved = (drying(path, path, paper, apart=apart) for apart in (0.0, 0.6))
        assert isinstance(steady, Drying) and isinstance(moved, Drying)
        self.assertGreater(min(moved.masstone.u, moved.wash.u), 0.6)
        self.assertLess(steady.masstone.u, 0.4)
