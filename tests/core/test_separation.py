"""Separation of pigments, against the simulator's truth and inks of known density."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.grey import neutral_patches
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.measure.grain.granulation import paper_texture
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.separation.chance_colours import ChanceColours
from gelvet.core.measure.separation.components import end_members, unmix
from gelvet.core.measure.separation.index import separation
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.separation.pixel_path import PixelPath, off_path, pixel_path
from gelvet.core.measure.values import ZonePixels, tint_depth
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import paint_card
from gelvet.core.simulate.scanner import device_weights
from gelvet.core.simulate.truth import card_truth
from tests import simulated
from tests.lamps import lit_card, measured_with

AS_IS = LightLimit(3.0)


def _amiss(density: Floats, inks: Floats) -> float:
    """How far the directions (2, 3) found in densities (n, 3) lie from the nearest of the inks', the worse of the two."""
    ends = end_members(density, 300)
    assert ends is not None
    found, true = (parts / np.linalg.norm(parts, axis=1, keepdims=True) for parts in (ends.pure, inks))
    return max(min(float(np.linalg.norm(a - b)) for a in found) for b in true)


class SeparationOnCards(unittest.TestCase):
    def test_two_pigments_part_as_much_as_they_truly_do(self) -> None:
        card = lit_card()
        found, true = (of["swatches"]["S1"]["separation"] for of in (measured_with(0).document, card.truth))
        self.assertGreater(true["index"], 1.0)
        self.assertLess(abs(found["index"] / true["index"] - 1), 0.08)
        self.assertEqual(len(found["components"]), 2)
        self.assertAlmostEqual(sum(c["share"] for c in found["components"]), 1.0, places=4)
        seen, alone = ([np.array(c["lab"]) for c in parts] for parts in (found["components"], true["components"]))
        straight, crossed = ([float(ciede2000(seen[0], alone[i])), float(ciede2000(seen[1], alone[1 - i]))] for i in (0, 1))
        self.assertLess(max(straight if sum(straight) < sum(crossed) else crossed), 3)

    def test_colours_that_are_hardly_known_leave_the_parting_less_sure(self) -> None:
        card = lit_card()
        target = card.flat.reference
        grey = neutral_patches(target.xyz)
        greys = ReferenceTarget(ids=tuple(i for i, is_grey in zip(target.ids, grey, strict=True) if is_grey), xyz=target.xyz[grey])
        unsure = measure_image(card.image, card.flat.card.layout, greys).document
        self.assertEqual(unsure["calibration"]["tier"], "grey")
        found, known = (of["swatches"]["S1"]["separation"] for of in (unsure, measured_with(0).document))
        self.assertGreater(found["u"] / found["index"], 2 * known["u"] / known["index"])
        self.assertLess(abs(found["index"] - card.truth["swatches"]["S1"]["separation"]["index"]), 2 * found["u"])

    def test_a_wash_among_deep_colours_is_judged_by_its_own_depths(self) -> None:
        """On the simulator's own light, whose truth is worked out in another way."""
        import cv2

        layout = build_card("PARTED-1", "A6", [SwatchLabel("Parting")], Design(tests=()))
        paint = paint_of_codes("Parting", ("PB29", "PBr7"), (0.6, 0.4), masstone_amount=2.4)
        card = paint_card(layout, {"S1": paint}, device_weights("white-led"), seed=5, pixels_per_mm=16.0)
        zones = {z.kind: card.zone_xyz[z.id] for z in layout.zones if z.swatch == "S1" and z.kind in {"gradient", "wash"}}
        pixels = {
            kind: ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(xyz.shape[:2], bool), pixels_per_mm=16.0)
            for kind, xyz in zones.items()
        }
        path = pixel_path(list(pixels.values()), card.paper_xyz, AS_IS)
        assert path is not None
        # The wash takes a twentieth of the depths on the card, and a good part of the path's steps.
        low, high = np.quantile(tint_depth(pixels["wash"].xyz, card.paper_xyz), [0.02, 0.98])
        self.assertGreater(np.count_nonzero((path.depth > low) & (path.depth < high)), 20)
        off = off_path(AS_IS.of(pixels["wash"]), path, card.paper_xyz)
        slow = cv2.GaussianBlur(off, (0, 0), 1.874 * 16.0, borderType=cv2.BORDER_REFLECT)
        true = card_truth(card)["swatches"]["S1"]["separation"]["index"]
        self.assertLess(abs(float(np.sqrt((off - slow).var(axis=(0, 1)).sum())) / true - 1), 0.03)

    def test_one_pigment_is_not_told_as_two(self) -> None:
        found = simulated.measured().document["swatches"]
        for single in ("S1", "S3"):
            self.assertLess(found[single]["separation"]["index"], 0.45)
            self.assertEqual(found[single]["separation"]["components"], [])
        black = measured_with(0).document["swatches"]["S2"]["separation"]
        self.assertEqual(black["components"], [])
        self.assertLess(black["index"], 0.4)  # of a JPEG, whose steps of colour alone are as much

    def test_one_pigment_stays_one_where_its_deepest_channel_has_no_light_left(self) -> None:
        """An orange: violet light is gone in a clump of the wash as it is in the masstone, which yellow light tells apart."""
        import cv2

        rng = np.random.default_rng(9)
        paper = np.array([88.0, 91.0, 74.0])
        field = cv2.GaussianBlur(rng.standard_normal((240, 360)), (0, 0), 0.25 * 12)

        def painted(amount: Floats) -> ZonePixels:
            light = np.array([0.0, 0.0, 0.02]) + np.array([1.0, 1.0, 0.98]) * 10 ** -(amount[..., None] * np.array([0.2, 0.3, 2.4]))
            xyz = (paper * light).astype(np.float32)
            return ZonePixels(xyz=xyz, good=np.ones(xyz.shape[:2], bool), pixels_per_mm=12.0)

        wash = painted(0.85 * np.exp(0.4 * field / field.std()))
        gradient = painted(np.linspace(2.4, 0.05, 480)[None] * (1 + 0.05 * rng.standard_normal((120, 480))))
        texture = paper_texture([painted(np.zeros((120, 120)))], 0.0, np.empty((0, 2)))
        path = pixel_path([gradient, wash], paper, AS_IS)
        assert path is not None
        self.assertLess(path.saturates_at, 1.7)
        found = separation(wash, path, paper, texture, 0.0, np.zeros((3, 3)))
        assert isinstance(found, Separation)
        self.assertLess(found.index, 0.8)
        self.assertEqual(found.components, ())
        # What is paler is judged as ever.
        pale = painted(0.15 * np.exp(0.35 * field / field.std()))
        self.assertLess(float(tint_depth(pale.xyz, paper).max()), path.saturates_at)

    def test_noise_that_hides_how_deep_a_pixel_is_neither_makes_a_second_pigment_nor_hides_one(self) -> None:
        """A scarlet: by the light of its deepest channel, clumps of the wash are not told from its masstone, of quite another colour."""
        import cv2

        rng, spread = np.random.default_rng(3), 0.15
        paper, first, second = np.array([85.0, 88.0, 70.0]), np.array([0.4, 0.6, 1.4]), np.array([0.6, 0.3, 0.1])

        def clumps(strength: float) -> Floats:
            field = cv2.GaussianBlur(rng.standard_normal((240, 260)), (0, 0), 0.25 * 12)
            return np.asarray(np.exp(strength * field / field.std()))

        def found(share: float) -> tuple[float, float]:
            """Index, and what it would be if nothing were known of the noise."""

            def painted(amount: Floats, other: Floats) -> ZonePixels:
                density = amount[..., None] * first + share * other[..., None] * second
                xyz = paper * (0.015 * (first > 1) + (1 - 0.015 * (first > 1)) * 10**-density) + spread * rng.standard_normal(density.shape)
                return ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(amount.shape, bool), pixels_per_mm=12.0)

            wash, masstone = painted(0.9 * clumps(0.3), 0.9 * clumps(0.4)), painted(2.4 * clumps(0.05), 2.4 * clumps(0.05))
            steps = np.geomspace(2.4, 0.05, 480)[None] * np.ones((120, 1))
            gradient, none = painted(steps, steps), np.zeros((120, 120))
            texture, limit = paper_texture([painted(none, none)], 0.0, np.empty((0, 2))), LightLimit(5.0, 0.055)
            path, noise = pixel_path([gradient, masstone, wash], paper, limit), spread**2 * np.eye(3)
            assert path is not None
            drowned = float(np.mean(tint_depth(wash.xyz, paper) > path.drowns_at(noise)))
            self.assertGreater(drowned, 0.02)
            known, unknown = (
                separation(wash, path, paper, texture, 0.055, of, chance=ChanceColours([gradient, masstone])) for of in (noise, 0 * noise)
            )
            assert isinstance(known, Separation)
            assert isinstance(unknown, Separation)
            return known.index, unknown.index

        one, two = found(0.0), found(0.6)
        self.assertLess(one[0], 0.5)
        self.assertGreater(one[1], 2.0)
        self.assertGreater(two[0], 2.0)
        self.assertAlmostEqual(two[0] / two[1], 1, delta=0.02)

    def test_the_path_is_straight_to_the_paper(self) -> None:
        path = PixelPath(np.array([0.0, 0.5, 1.0]), np.array([[0.0, 2.0], [10.0, 2.0], [20.0, -2.0]]), np.ones((3, 3)), AS_IS)
        np.testing.assert_allclose(path.at(np.array([0.25, 0.75, 3.0])), [[5, 2], [15, 0], [20, -2]])

    def test_densities_of_two_inks_are_told_apart_and_shares_add_up(self) -> None:
        inks = np.array([[1.0, 0.6, 0.05], [0.04, 0.3, 1.0]])
        amounts = np.exp(np.random.default_rng(4).normal(0, 0.5, (20_000, 2))) * 0.2
        self.assertLess(_amiss(amounts @ inks, inks), 0.07)
        np.testing.assert_allclose(unmix(amounts @ inks, inks), amounts, atol=1e-9)
        rng = np.random.default_rng(5)
        self.assertTrue((unmix(rng.random((500, 3)), inks) >= 0).all())
        self.assertIsNone(end_members(np.outer(rng.random(500) + 0.1, inks[0]), 500))

    def test_an_even_zone_with_a_few_specks_has_colours_all_the_same(self) -> None:
        density = np.tile([0.2, 0.15, 0.1], (50_000, 1))
        density[7:200] = [0.1, 0.15, 0.3]
        ends = end_members(density, 300)
        assert ends is not None
        self.assertTrue(np.isfinite([ends.pure, *ends.moved]).all())
        self.assertLess(min(float(np.abs(end - [1, 0.75, 0.5]).max()) for end in ends.pure), 0.1)

    def test_pigments_of_like_colour_are_not_told_apart_too_far(self) -> None:
        """Inks that share much of their absorption, whose purest places are nearly pure: what only looks at how pure a colour could be
        makes them twice as different."""
        inks = np.array([[1.0, 0.5, 0.4], [0.45, 0.6, 1.0]])
        for seed in range(4):
            rng = np.random.default_rng(seed)
            settled = 0.15 * rng.normal(size=(2000, 1))  # both lie in the paper's hollows
            for name, grain in (("log-normal", np.exp(rng.normal(0, 0.35, (2000, 2)))), ("gamma", rng.gamma(8, 1 / 8, (2000, 2)))):
                with self.subTest(seed=seed, grain=name):
                    self.assertLess(_amiss(0.2 * grain * np.exp(settled) @ inks, inks), 0.07)
