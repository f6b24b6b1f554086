"""What lies in a zone and is not its paint is left out, and neither grain nor colour keeps a trace of it."""

import unittest

import cv2
import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.colour.spaces import lab_to_xyz
from gelvet.core.measure.grain.granulation import granulation, paper_texture
from gelvet.core.measure.quantities.texture import Granulation, Separation
from gelvet.core.measure.separation.index import separation
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.separation.pixel_path import pixel_path
from gelvet.core.measure.values import ZonePixels
from gelvet.core.measure.zone.foreign_matter import rare_specks, without_foreign_matter
from gelvet.core.measure.zone.strokes import thin_strokes
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard, paint_card
from gelvet.core.simulate.scanner import device_weights

PAPER = np.array([85.0, 88.0, 70.0])
SCALE = 12.0
NO_NOISE = np.zeros((1, 2))


def pixels(xyz: Floats, good: Mask | None = None) -> ZonePixels:
    return ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(xyz.shape[:2], bool) if good is None else good, pixels_per_mm=SCALE)


def field(seed: int, shape: tuple[int, int] = (190, 260), width_mm: float = 0.5) -> Floats:
    """Unevenness (h, w) of mean 0 and spread 1, with grains of a width."""
    grains = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal(shape), (0, 0), width_mm / 3.33 * SCALE)
    return np.asarray((grains - grains.mean()) / grains.std())


def line(shape: tuple[int, ...], start: tuple[int, int], end: tuple[int, int], width: int) -> Mask:
    """A straight stroke, px."""
    drawn = np.zeros(shape, np.uint8)
    cv2.line(drawn, start, end, 1, width)
    return np.asarray(drawn > 0)


def grain(zone: ZonePixels) -> float:
    paper = paper_texture([pixels(lab_to_xyz(np.full((190, 260, 3), [95.0, 0, 0])))], 0.01, NO_NOISE)
    found = granulation(zone, paper, 0.01, NO_NOISE, "wash")
    assert isinstance(found, Granulation), found
    return found.index


class MaskedGrain(unittest.TestCase):
    """A hole in a zone neither adds unevenness nor dilutes it."""

    def test_a_corner_that_the_brush_missed_leaves_the_index_alone(self) -> None:
        lightness = 70 + 2.0 * field(1)
        y, x = np.mgrid[:190, :260]
        whole = grain(pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1))))
        for share in (0.15, 0.4):
            with self.subTest(share=share):
                missed = x / 260 + y / 190 < np.sqrt(2 * share)
                seen = np.where(missed, 95.0, lightness)
                zone = pixels(lab_to_xyz(np.stack([seen, 0 * seen, 0 * seen], axis=-1)), ~missed)
                self.assertAlmostEqual(grain(zone) / whole, 1, delta=0.06)

    def test_many_small_holes_do_not_dilute_it(self) -> None:
        lightness = 70 + 2.0 * field(2)
        whole = pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))
        holes = np.random.default_rng(3).random(lightness.shape) < 0.003
        good = cv2.dilate(holes.astype(np.uint8), np.ones((9, 9), np.uint8)) == 0
        self.assertLess(good.mean(), 0.85)
        self.assertAlmostEqual(grain(ZonePixels(xyz=whole.xyz, good=good, pixels_per_mm=SCALE)) / grain(whole), 1, delta=0.08)


class Strokes(unittest.TestCase):
    def found_on(self, depth: Floats) -> Mask:
        return thin_strokes(depth, np.ones(depth.shape, bool), SCALE)

    def test_a_pencil_line_is_found_on_strong_grain_at_any_angle(self) -> None:
        for seed, (start, end) in enumerate((((10, 20), (250, 30)), ((30, 5), (60, 185)), ((20, 180), (200, 10)))):
            with self.subTest(seed=seed):
                depth = 0.3 + 0.09 * field(seed)
                stroke = line(depth.shape, start, end, 5)
                found = self.found_on(depth + 0.35 * stroke)
                self.assertGreater(found[stroke].mean(), 0.9)
                near = cv2.dilate(stroke.astype(np.uint8), np.ones((15, 15), np.uint8)) > 0
                self.assertLess(found[~near].mean(), 0.005)

    def test_a_hair_is_followed_round_its_bends(self) -> None:
        turn = np.linspace(0, 1.2 * np.pi, 60)
        for seed, radius_mm in enumerate((3.0, 4.0, 6.0)):
            with self.subTest(radius_mm=radius_mm):
                depth = 0.25 + 0.04 * field(seed)
                places = np.stack([130 + radius_mm * SCALE * np.cos(turn), 95 + radius_mm * SCALE * np.sin(turn)], axis=1)
                hair = np.zeros(depth.shape, np.uint8)
                cv2.polylines(hair, [places.round().astype(np.int32)], False, 1, 2)
                found = self.found_on(depth + 0.35 * hair)
                self.assertGreater(found[hair > 0].mean(), 0.9)
                near = cv2.dilate(hair, np.ones((15, 15), np.uint8)) > 0
                self.assertLess(found[~near].mean(), 0.005)

    def test_grain_clumps_and_a_streaked_wash_have_none(self) -> None:
        for seed in range(6):
            with self.subTest(seed=seed):
                self.assertFalse(self.found_on(0.3 + 0.09 * field(seed, width_mm=0.3 + 0.15 * seed)).any())
                self.assertFalse(self.found_on(0.2 * np.exp(0.5 * field(seed + 10))).any())
        streaks = cv2.GaussianBlur(np.repeat(np.random.default_rng(4).standard_normal((190, 1)), 260, axis=1), (0, 0), 0.15 * SCALE)
        self.assertLess(self.found_on(0.3 + 0.1 * streaks + 0.005 * field(5)).mean(), 0.05)

    def test_the_edge_of_a_bare_or_a_deeper_part_is_none(self) -> None:
        x = np.arange(260)[None, :] * np.ones((190, 1))
        for step in (-0.3, 0.4):
            self.assertFalse(self.found_on(0.35 + 0.02 * field(8) + step * (x > 120)).any())

    def test_zones_smaller_than_a_stroke_have_none(self) -> None:
        self.assertFalse(self.found_on(np.full((20, 30), 0.3)).any())


class Hairs(unittest.TestCase):
    def test_however_a_hair_curls_the_grain_is_that_of_the_paint(self) -> None:
        lightness = 70 + 3.5 * field(3)
        clean = pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))
        turn = np.linspace(0, 1.8 * np.pi, 200)
        places = np.stack([130 + 1.3 * SCALE * np.cos(turn), 95 + 1.3 * SCALE * np.sin(turn)], axis=1)
        hair = np.zeros(lightness.shape, np.uint8)
        cv2.polylines(hair, [places.round().astype(np.int32)], False, 1, 2)
        hairy = pixels(np.where(hair[..., None] > 0, 0.5 * clean.xyz, clean.xyz))
        seen = without_foreign_matter(hairy, "wash", PAPER, for_grain=True)
        self.assertFalse(seen.good[hair > 0].any())
        self.assertAlmostEqual(grain(seen) / grain(clean), 1, delta=0.03)

    def test_grain_has_none(self) -> None:
        for seed in range(8):
            deep = 0.3 * np.exp(0.5 * field(seed, width_mm=0.3 + 0.1 * seed))
            zone = pixels(PAPER * 10 ** -deep[..., None])
            self.assertGreater(without_foreign_matter(zone, "wash", PAPER, for_grain=True).good.mean(), 0.99)


class RareSpecks(unittest.TestCase):
    """By colour, where grain hides them by depth."""

    def test_a_few_far_off_are_foreign_and_many_are_the_paint(self) -> None:
        rng = np.random.default_rng(7)
        for count, foreign in ((6, True), (150, False)):
            off = np.abs(rng.normal(0, 0.5, (190, 260)))
            for y, x in zip(rng.integers(3, 185, count), rng.integers(3, 255, count), strict=True):
                off[y : y + 2, x : x + 2] = 20.0
            self.assertEqual(bool(rare_specks(off, SCALE).any()), foreign)
        self.assertFalse(rare_specks(np.abs(rng.normal(0, 3.0, (190, 260))), SCALE).any())

    def test_dust_does_not_make_two_pigments_of_a_granulating_one(self) -> None:
        card = granulating()
        clean, dusty = (self.parting(card, dust=dust) for dust in (False, True))
        self.assertLess(clean, 0.35)
        self.assertLess(dusty, 0.35)

    def parting(self, card: PaintedCard, *, dust: bool) -> float:
        zones = {z.kind: pixels(card.zone_xyz[z.id]) for z in card.layout.zones if z.swatch == "S1" and z.kind in {"gradient", "wash"}}
        wash = zones["wash"]
        rng = np.random.default_rng(9)
        if dust:
            for y, x in zip(*(rng.integers(4, side - 4, 10) for side in wash.good.shape), strict=True):
                wash.xyz[y : y + 4, x : x + 4] *= 0.3
        path = pixel_path(list(zones.values()), card.paper_xyz, LightLimit(5.0, 0.01))
        bare = card.paper_xyz * (1 + 0.004 * field(4)[..., None])
        paper = paper_texture([pixels(bare)], 0.01, NO_NOISE)
        found = separation(wash, path, card.paper_xyz, paper, 0.01, np.zeros((3, 3)))
        assert isinstance(found, Separation), found
        return found.index

    def test_what_is_masked_does_not_colour_what_lies_around_it(self) -> None:
        xyz = np.full((120, 120, 3), [30.0, 25.0, 60.0])
        good = np.ones((120, 120), bool)
        xyz[50:60], good[50:60] = [60.0, 70.0, 5.0], False
        limited = LightLimit(3.0).of(pixels(xyz, good))
        np.testing.assert_allclose(limited.xyz[limited.good], [30.0, 25.0, 60.0] * np.ones((int(limited.good.sum()), 1)), rtol=1e-4)


def granulating() -> PaintedCard:
    layout = build_card("DUSTY", "A6", [SwatchLabel("Blue")], Design(tests=()))
    paint = paint_of_codes("Blue", ("PB29",), (1.0,), masstone_amount=2.6)
    return paint_card(layout, {"S1": paint}, device_weights("white-led"), seed=5, pixels_per_mm=SCALE)


class WithoutForeignMatter(unittest.TestCase):
    def test_dust_and_pencil_are_left_out_and_lone_pale_specks_too(self) -> None:
        rng = np.random.default_rng(3)
        xyz = PAPER * 10 ** -(0.5 + 0.02 * rng.standard_normal((150, 250, 1)))
        xyz[40:44, 60:63] = 1.0
        xyz[100:104, 200:204] = PAPER * 0.97
        cleaned = without_foreign_matter(pixels(xyz), "wash", PAPER)
        self.assertFalse(cleaned.good[40:44, 60:63].any())
        self.assertFalse(cleaned.good[100:104, 200:204].any())
        self.assertGreater(cleaned.used_fraction, 0.99)

    def test_where_grain_is_judged_its_own_tails_stay(self) -> None:
        rng = np.random.default_rng(8)
        field = cv2.GaussianBlur(rng.standard_normal((250, 400)), (0, 0), 2.0)
        field = field / field.std()
        for depth in (0.3 * (1 - 0.17 * field), 0.2 * np.exp(0.35 * field)):
            xyz = PAPER * 10 ** -np.maximum(depth, 0)[..., None]
            self.assertEqual(without_foreign_matter(pixels(xyz), "wash", PAPER, for_grain=True).used_fraction, 1.0)
            xyz[120:124, 200:204] *= 0.05
            self.assertFalse(without_foreign_matter(pixels(xyz), "wash", PAPER, for_grain=True).good[120:124, 200:204].any())

    def test_dark_grains_that_clump_are_the_paint_and_a_pencil_line_across_them_is_not(self) -> None:
        rng = np.random.default_rng(6)
        depth = 0.2 + 0.004 * rng.standard_normal((150, 250))
        grains = np.zeros(depth.shape, dtype=bool)
        for y, x in zip(*(rng.integers(0, n - 4, 260) for n in depth.shape), strict=True):
            grains[y : y + 3, x : x + 3] = True
        line = np.zeros(depth.shape, dtype=bool)
        line[70:73, 20:200] = True
        depth[grains] += 0.25
        depth[line] += 0.8
        cleaned = without_foreign_matter(pixels(PAPER * 10 ** -depth[..., None]), "wash", PAPER)
        self.assertGreater(cleaned.good[grains & ~line].mean(), 0.9)
        self.assertFalse(cleaned.good[line].any())

    def test_a_zone_that_the_brush_missed_in_part_is_judged_by_what_it_painted(self) -> None:
        rng = np.random.default_rng(5)
        painted = PAPER * 10 ** (-0.4 * np.exp(0.3 * rng.standard_normal((120, 160, 1))) * np.array([1.0, 0.8, 0.3]))
        for share in (0.0, 0.1, 0.5):
            xyz = painted.copy()
            xyz[:, : round(share * 160)] = PAPER * (1 + 0.01 * rng.standard_normal((120, round(share * 160), 1)))
            found = {kind: without_foreign_matter(pixels(xyz), kind, PAPER) for kind in ("wash", "gradient")}
            mean = found["wash"].xyz[found["wash"].good].mean(axis=0)
            np.testing.assert_allclose(mean, painted.reshape(-1, 3).mean(axis=0), rtol=0.02)
            self.assertAlmostEqual(found["wash"].used_fraction, 1 - share, delta=0.12)
            # A gradient may end on bare paper.
            self.assertGreater(found["gradient"].used_fraction, 0.98)

    def test_pale_ridges_close_together_are_grain_and_stay(self) -> None:
        rng = np.random.default_rng(4)
        xyz = PAPER * 10 ** -(0.5 + 0.02 * rng.standard_normal((150, 250, 1)))
        xyz[::8, ::8] = PAPER * 0.97
        self.assertEqual(without_foreign_matter(pixels(xyz), "wash", PAPER).used_fraction, 1.0)


if __name__ == "__main__":
    unittest.main()
