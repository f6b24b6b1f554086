"""What the gates say of scans, and what is refused: tags, references, greys, clipping, softness, light, water."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.reading import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.errors import NothingMeasurable
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.pipeline import measure_image
from tests import simulated


def covered(pixels: np.ndarray, tags: list[int], layout: Layout) -> np.ndarray:
    """A scan with slips of grey paper over some tags."""
    geometry = calibrate(simulated.picture(), layout, simulated.bench().reference).calibration.geometry
    result = pixels.copy()
    for tag in (t for t in layout.tags if t.id in tags):
        place = geometry.bounds_px(tag.rect.inset(-2), result.shape, margin=0)
        assert place is not None
        result[place] = 40000
    return result


class Gates(unittest.TestCase):
    def setUp(self) -> None:
        made = simulated.bench()
        self.layout, self.reference = made.layout, made.reference

    def test_one_covered_tag_is_measured_with_a_warning(self) -> None:
        capture = calibrate(Picture(pixels=covered(simulated.picture().pixels, [1], self.layout)), self.layout, self.reference)
        self.assertEqual(simulated.gates(capture)["tags"], "warn")
        self.assertLess(capture.calibration.geometry.reprojection_px, 0.1)

    def test_two_tags_of_four_or_none_are_refused(self) -> None:
        ids = [t.id for t in self.layout.tags]
        for hidden, words in ((ids[2:], "too few to place the card"), (ids, "No tags were found")):
            with self.subTest(hidden=hidden), self.assertRaisesRegex(NothingMeasurable, words):
                calibrate(Picture(pixels=covered(simulated.picture().pixels, hidden, self.layout)), self.layout, self.reference)

    def test_another_cards_layout_is_refused(self) -> None:
        with self.assertRaisesRegex(NothingMeasurable, "shows card TEST-CARD-01"):
            calibrate(simulated.picture(), replace(self.layout, card_id="OTHER-1"), self.reference)
        moved = tuple(replace(t, centre_mm=(t.centre_mm[0], t.centre_mm[1] + 9 * (t.id % 2))) for t in self.layout.tags)
        with self.assertRaisesRegex(NothingMeasurable, "do not stand where this layout has them"):
            calibrate(simulated.picture(), replace(self.layout, tags=moved), self.reference)

    def test_tags_of_sizes_in_other_units_are_named(self) -> None:
        shrunk = tuple(replace(t, size_mm=t.size_mm / 10) for t in self.layout.tags)
        with self.assertRaisesRegex(NothingMeasurable, "as its layout says; check the tags' center_mm and size_mm"):
            calibrate(simulated.picture(), replace(self.layout, tags=shrunk), self.reference)

    def test_missing_patches_are_named_and_no_reference_fails(self) -> None:
        some = ReferenceTarget(ids=self.reference.ids[3:], xyz=self.reference.xyz[3:])
        capture = calibrate(simulated.picture(), self.layout, some)
        self.assertEqual(simulated.gates(capture)["reference"], "warn")
        self.assertIn("A1, A2, A3", next(g.advice for g in capture.calibration.gates if g.id == "reference"))
        bare = calibrate(simulated.picture(), self.layout, None)
        self.assertEqual((bare.calibration.tier, simulated.gates(bare)["reference"]), ("none", "fail"))

    def test_a_file_of_other_names_or_of_a_few_patches_is_not_called_none(self) -> None:
        ids = self.reference.ids
        for kept, named, words in (
            (slice(None), tuple(f"Q{i}" for i in ids), "names none of this card's patches \\(A1, A2"),
            (slice(4), (*ids[:2], "A900", "A901"), "Only 2 of the card's patches"),
        ):
            target = ReferenceTarget(ids=named, xyz=self.reference.xyz[kept])
            capture = calibrate(simulated.picture(), self.layout, target)
            self.assertEqual(simulated.gates(capture)["reference"], "fail")
            self.assertRegex(next(g.advice for g in capture.calibration.gates if g.id == "reference"), words)

    def test_eight_patches_three_of_them_coloured_tell_the_device(self) -> None:
        """Such a card had its greys alone to go by, and vivid paints 5 to 11 ΔE00 off."""
        lab = xyz_to_lab(self.reference.xyz)
        greys = np.flatnonzero(np.hypot(lab[:, 1], lab[:, 2]) < 5)[[0, 2, 4, 6, 7]]
        yellow, red, blue = (int(np.argmin(np.linalg.norm(lab - near, axis=1))) for near in ((88, 0, 80), (45, 60, 30), (45, -10, -45)))
        for coloured, tier in (((yellow, red, blue), "target"), ((yellow, blue), "grey")):
            kept = [*greys, *coloured]
            few = ReferenceTarget(
                ids=tuple(self.reference.ids[i] for i in kept), xyz=self.reference.xyz[kept],
                wavelengths_nm=self.reference.wavelengths_nm,
                spectra=None if self.reference.spectra is None else self.reference.spectra[kept],
            )  # fmt: skip
            capture = calibrate(simulated.picture(), self.layout, few)
            errors = []
            for name, true in simulated.bench().truth["zones"].items():
                zone = self.layout.zone(name)
                if zone.kind in {"masstone", "wash", "beside_ink"}:
                    read = xyz_to_lab(capture.xyz(zone.rect.inset(1))[0].mean(axis=(0, 1), dtype=float))
                    errors.append(float(ciede2000(read, np.array(true["lab"]))))
            with self.subTest(coloured=len(coloured)):
                self.assertEqual(capture.calibration.tier, tier)
                if tier == "target":
                    self.assertLess(max(errors), 2)
                else:
                    self.assertGreater(float(np.median(errors)), 3)

    def test_names_in_other_capitals_are_the_same_patches(self) -> None:
        small = replace(self.reference, ids=tuple(i.lower() for i in self.reference.ids))
        self.assertEqual(set(simulated.gates(calibrate(simulated.picture(), self.layout, small)).values()), {"pass"})

    def test_two_rows_that_changed_places_are_left_out_and_not_called_glare(self) -> None:
        order = list(range(len(self.reference.ids)))
        order[8], order[12] = 12, 8
        swapped = replace(self.reference, xyz=self.reference.xyz[order], spectra=None, wavelengths_nm=None)
        capture = calibrate(simulated.picture(), self.layout, swapped)
        said = {g.id: g for g in capture.calibration.gates}
        self.assertEqual((said["reference"].state, said["glare"].state), ("warn", "pass"))
        self.assertIn(f"{self.reference.ids[8]}, {self.reference.ids[12]}", said["reference"].advice)

    def test_without_a_reference_nothing_is_measured_and_the_reason_is_said(self) -> None:
        document = measure_image(simulated.bench().image, self.layout, None).document
        self.assertIn("no reference", document["swatches"]["S1"]["hue_shift"]["absent"])
        self.assertIsNone(document["zones"]["S1.masstone"]["lab"])

    def test_greys_alone_give_lightness_and_say_so_of_hues(self) -> None:
        greys = [f"A{i}" for i in range(1, 9)]
        kept = [self.reference.ids.index(g) for g in greys]
        only = ReferenceTarget(ids=tuple(greys), xyz=self.reference.xyz[kept])
        document = measure_image(simulated.bench().image, self.layout, only).document
        self.assertEqual(document["calibration"]["tier"], "grey")
        self.assertIn("hues cannot", {g["id"]: g for g in document["calibration"]["gates"]}["reference"]["advice"])
        for name, true in simulated.bench().truth["zones"].items():
            zone = document["zones"][name]
            with self.subTest(zone=name):
                miss = np.abs(np.array(zone["lab"]) - np.array(true["lab"]))
                self.assertTrue((miss < 3 * np.array(zone["u_lab"])).all(), f"{miss} against {zone['u_lab']}")
        soot = document["zones"]["S3.masstone"]
        self.assertLess(abs(soot["lab"][0] - simulated.bench().truth["zones"]["S3.masstone"]["lab"][0]), 1.0)

    def test_another_targets_file_shows_in_the_residual(self) -> None:
        shuffled = ReferenceTarget(ids=self.reference.ids, xyz=np.roll(self.reference.xyz, 7, axis=0))
        self.assertEqual(simulated.gates(calibrate(simulated.picture(), self.layout, shuffled))["residual"], "fail")

    def test_channels_in_each_others_place_are_named(self) -> None:
        made = simulated.bench()
        for order, named in (((2, 1, 0), "red and blue"), ((1, 0, 2), "red and green"), ((1, 2, 0), "red, green and blue")):
            with self.subTest(order=order):
                exchanged = Picture(pixels=np.ascontiguousarray(made.capture.image[..., order]))
                gate = next(g for g in calibrate(exchanged, made.layout, made.reference).calibration.gates if g.id == "reference")
                self.assertEqual(gate.state, "fail")
                self.assertIn(f"the file's {named} stand", gate.advice)

    def test_clipping_softness_and_uneven_light_are_seen(self) -> None:
        import cv2

        linear = (simulated.picture().pixels / 65535) ** 2.2
        slope = np.linspace(1.0, 0.55, linear.shape[1])[None, :, None]
        cases = {
            "clipping": np.clip(linear * 1.25, 0, 1),
            "focus": cv2.GaussianBlur(linear, (0, 0), 2.2),
            "fall-off": linear * slope,
        }
        for gate, bad in cases.items():
            with self.subTest(gate=gate):
                pixels = (bad ** (1 / 2.2) * 65535).astype(np.uint16)
                self.assertIn(simulated.gates(calibrate(Picture(pixels=pixels), self.layout, self.reference))[gate], {"warn", "fail"})

    def test_a_wet_card_is_not_judged(self) -> None:
        document = measure_image(simulated.bench().image, self.layout, self.reference, state="wet").document
        self.assertEqual(document["swatches"]["S1"]["granulation"]["absent"], "the card was captured wet")
