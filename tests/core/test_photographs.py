"""Photographs: a tilted camera with a bent lens in uneven light measures what the flatbed measures; shots lie on each other;
several cards in one image; and each thing that may go wrong is named by its own gate."""

import tempfile
import unittest
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.judging.gates import Gate
from gelvet.core.capture.placing.fiducials import FoundTags, cards_in, place_card, see_tags, tag_corners_mm
from gelvet.core.capture.placing.geometry import Geometry, Lens, rectify
from gelvet.core.capture.placing.registration import registration_mm
from gelvet.core.capture.placing.same_card import alike
from gelvet.core.capture.reading import read_picture
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.capture.shots.registered import ShotFile, lacking_shots, telling_shots
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.errors import NothingMeasurable
from gelvet.core.formats.cgats import ReferenceTarget
from gelvet.core.pipeline import Measured, NotMeasured, measure_image, measure_sheet
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.faults import FAULTS, Fault
from gelvet.core.simulate.files import PhotoFormat, SimulatedCapture, card_for_camera, reference_of, take_photograph, write_image
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from gelvet.core.simulate.spoiling import spoil_camera, spoil_card
from gelvet.core.simulate.truth import card_truth

CAMERA = Camera(pixels_per_mm=12.5, tilt_deg=9.0, distortion=-0.02, fall_off=0.2, noise=0.003)
PAINTS = {
    "S1": paint_of_codes("Granulating blue", ("PB29",), (1.0,), masstone_amount=2.6),
    "S2": paint_of_codes("Earth red", ("PR101",), (1.0,), masstone_amount=2.2),
}


def layout(card_id: str = "PHOTO-01", sheet: str = "A6") -> Layout:
    return build_card(card_id, sheet, [SwatchLabel(p.name) for p in PAINTS.values()])


@lru_cache(maxsize=1)
def photograph() -> SimulatedCapture:
    return take_photograph(card_for_camera(layout(), PAINTS, CAMERA, 3), CAMERA, 4, "tiff-16")


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def written(self, shot: SimulatedCapture, name: str = "shot") -> Path:
        path = self.folder / f"{name}.{shot.ending}"
        write_image(shot, path)
        return path


class Photographs(Folder):
    def test_zones_come_out_as_they_were_painted(self) -> None:
        kinds: dict[PhotoFormat, float] = {"tiff-16": 1.0, "jpeg-92": 1.5}  # a JPEG rounds the colour of a whole patch
        for kind, limit in kinds.items():
            shot = take_photograph(photograph().card, CAMERA, 4, kind)
            document = measure_image(self.written(shot), layout(), shot.reference).document
            truth = card_truth(shot.card)
            errors = [
                float(ciede2000(np.array(document["zones"][name]["lab"]), np.array(true["lab"])))
                for name, true in truth["zones"].items()
                if not name.endswith(".gradient")
            ]
            with self.subTest(kind=kind):
                self.assertLess(float(np.median(errors)), limit)
                self.assertLess(max(errors), 4.0)
                self.assertEqual([g["id"] for g in document["calibration"]["gates"] if g["state"] != "pass"], [])
                self.assertLess(document["calibration"]["reprojection_px"], 0.12)
                self.assertAlmostEqual(document["calibration"]["tilt_deg"], 9.0, delta=1.0)
                self.assertAlmostEqual(document["calibration"]["lens_bend"], -0.02, delta=0.004)

    def test_a_camera_that_mixes_its_channels_is_understood(self) -> None:
        camera = replace(CAMERA, saturation=0.15)
        shot = take_photograph(photograph().card, camera, 4, "tiff-16")
        document = measure_image(self.written(shot), layout(), shot.reference).document
        self.assertLess(document["calibration"]["cross_validated_de00"]["mean"], 0.8)

    def test_a_picture_lying_on_its_side_or_head_is_the_same_picture(self) -> None:
        shot = photograph()
        upright = measure_image(self.written(shot), layout(), shot.reference).document["swatches"]["S1"]["masstone"]["lab"]
        for turns in (1, 2):
            turned = replace(shot, image=np.ascontiguousarray(np.rot90(shot.image, turns)))
            found = measure_image(self.written(turned), layout(), shot.reference).document["swatches"]["S1"]["masstone"]["lab"]
            np.testing.assert_allclose(found, upright, atol=0.4)


class Bent(unittest.TestCase):
    """A lens's bend, told from tag corners alone."""

    def test_the_bend_is_found_and_none_is_made_up(self) -> None:
        card = layout(sheet="A5")
        matrix = np.array([[19.5, 0.6, 200.0], [-0.5, 19.8, 150.0], [1e-5, -8e-6, 1.0]])
        size = (4600, 3400)
        rng = np.random.default_rng(2)
        straight = (0.0, 0.0)
        lenses = (
            (0.0, 0.0, straight),
            (-0.03, 0.0, straight),
            (0.015, 0.0, straight),
            (0.02, -0.04, straight),
            (-0.01, 0.0, (0.003, -0.002)),
        )
        for bend, fourth, askew in lenses:
            lens = Lens(bend, (size[0] / 2 - 0.5, size[1] / 2 - 0.5), float(np.hypot(*size)) / 2, fourth, askew)
            true = Geometry(matrix=matrix, size_mm=card.size_mm, reprojection_px=0, lens=lens)
            corners: dict[int, Floats] = {t.id: true.to_pixels(tag_corners_mm(t)) + rng.normal(0, 0.05, (4, 2)) for t in card.tags}
            found, _ = place_card(FoundTags(corners=corners, image_size=size), card)
            with self.subTest(bend=bend, fourth=fourth, askew=askew):
                self.assertEqual(found.lens is None, bend == 0)
                self.assertLess(found.reprojection_px, 0.12)
                middle = np.array([[105.0, 74.0], [40.0, 110.0], [180.0, 60.0]])
                np.testing.assert_allclose(found.to_pixels(middle), true.to_pixels(middle), atol=0.15)

    def test_a_picture_that_was_cut_keeps_its_lens(self) -> None:
        card = layout(sheet="A5")
        whole = (5200, 3800)
        lens = Lens(-0.03, (whole[0] / 2 - 0.5, whole[1] / 2 - 0.5), float(np.hypot(*whole)) / 2)
        true = Geometry(
            matrix=np.array([[19.5, 0.6, 900.0], [-0.5, 19.8, 700.0], [1e-5, -8e-6, 1.0]]),
            size_mm=card.size_mm,
            reprojection_px=0,
            lens=lens,
        )
        rng = np.random.default_rng(3)
        cut = np.array([700.0, 500.0])
        corners = {t.id: true.to_pixels(tag_corners_mm(t)) - cut + rng.normal(0, 0.05, (4, 2)) for t in card.tags}
        found, _ = place_card(FoundTags(corners=corners, image_size=(4500, 3300)), card)
        middle = np.array([[105.0, 74.0], [40.0, 110.0], [180.0, 60.0]])
        np.testing.assert_allclose(found.to_pixels(middle), true.to_pixels(middle) - cut, atol=0.15)

    def test_reading_through_the_lens_gives_the_pixels_that_lie_there(self) -> None:
        lens = Lens(-0.04, (400, 300), 500, 0.02, (0.002, -0.003))
        geometry = Geometry(matrix=np.diag([8.0, 8.0, 1.0]), size_mm=(100, 75), reprojection_px=0, lens=lens)
        y, x = np.mgrid[0:600, 0:800].astype(np.float32)
        rect = Rect(10, 8, 55, 41)
        seen = rectify(np.dstack([x, y]), (0, 0), geometry, rect, 9.0)
        rows, columns = seen.shape[:2]
        places = np.stack(np.meshgrid(rect.x + (np.arange(columns) + 0.5) * 55 / columns, rect.y + (np.arange(rows) + 0.5) * 41 / rows), -1)
        np.testing.assert_allclose(seen, geometry.to_pixels(places.reshape(-1, 2)).reshape(seen.shape), atol=0.05)
        small = geometry.reduced(4)
        np.testing.assert_allclose(small.to_pixels(places[0]) * 4 + 1.5, geometry.to_pixels(places[0]), atol=1e-6)


class UnevenLight(Folder):
    def test_light_that_changes_along_a_tags_edge_does_not_move_it(self) -> None:
        steep = replace(CAMERA, fall_off=0.5, noise=0.001, distortion=0.0)
        shot = take_photograph(photograph().card, steep, 4, "tiff-16")
        document = measure_image(self.written(shot), layout(), shot.reference).document
        self.assertLess(document["calibration"]["reprojection_px"], 0.1)

    def test_paper_brighter_than_every_patch_is_as_light_as_it_is(self) -> None:
        """Patches in the dim part of a dim picture tell nothing of the curve at the paper's values, nor of the light by them."""
        camera = replace(CAMERA, kind="lamp-led", tone="linear", exposure=0.85, tilt_deg=1.5, fall_off=0.23, light_from_deg=50.0)
        shot = take_photograph(card_for_camera(layout(sheet="A5"), PAINTS, camera, 3), camera, 4, "tiff-16")
        picture, truth = self.written(shot), card_truth(shot.card)
        grey = np.hypot(*xyz_to_lab(shot.reference.xyz)[:, 1:].T) < 4
        greys = ReferenceTarget(ids=tuple(np.array(shot.reference.ids)[grey].tolist()), xyz=shot.reference.xyz[grey])
        for reference, off in ((shot.reference, {"paper": 0.25, "wash": 0.25}), (greys, {"paper": 0.07})):
            document = measure_image(picture, layout(sheet="A5"), reference).document
            for zone in (f"{swatch}.{kind}" for swatch in ("S1", "S2") for kind in off):
                with self.subTest(zone=zone, tier=document["calibration"]["tier"]):
                    apart = document["zones"][zone]["lab"][0] - truth["zones"][zone]["lab"][0]
                    self.assertLess(abs(apart), off[zone.split(".")[1]])


class SeveralCards(Folder):
    def page(self) -> tuple[Path, list[Layout]]:
        """Two cards of this bench on one scan, one lying on its head."""
        layouts = [layout("PHOTO-01"), layout("PHOTO-02")]
        camera = replace(CAMERA, tilt_deg=0, distortion=0, fall_off=0)
        shots = [take_photograph(card_for_camera(card, PAINTS, camera, 3, target_seed=1), camera, 4, "tiff-16") for card in layouts]
        self.reference = shots[0].reference
        both = np.concatenate([shots[0].image, shots[1].image[::-1, ::-1]])
        path = self.folder / "page.tif"
        write_image(replace(shots[0], image=both), path)
        return path, layouts

    def test_each_gets_its_own_measurement(self) -> None:
        path, layouts = self.page()
        found = measure_sheet(path, layouts, self.reference)
        documents = [one.document for one in found if isinstance(one, Measured)]
        self.assertEqual([d["card_id"] for d in documents], ["PHOTO-01", "PHOTO-02"])
        first, second = (np.array(d["swatches"]["S1"]["masstone"]["lab"]) for d in documents)
        self.assertLess(float(ciede2000(first, second)), 1.5)
        one = measure_image(path, layouts[1], self.reference).document
        self.assertEqual(one["card_id"], "PHOTO-02")
        unknown = measure_sheet(path, [layouts[0], layout("PHOTO-09")], self.reference)
        self.assertTrue(any(isinstance(u, NotMeasured) and "PHOTO-02" in u.reason for u in unknown))
        with self.assertRaisesRegex(NothingMeasurable, "2 cards"):
            measure_image(path, layout("PHOTO-09"), self.reference)

    def test_tags_are_sorted_to_cards_by_where_they_put_the_middle(self) -> None:
        path, layouts = self.page()
        picture = read_picture(path)
        cards = cards_in(see_tags(picture.pixels), layouts[0], (picture.pixels.shape[1], picture.pixels.shape[0]))
        self.assertEqual([sorted(c.corners) for c in cards], [sorted(t.id for t in layouts[0].tags)] * 2)


class Shots(Folder):
    def test_low_lamp_shots_lie_on_the_flat_one(self) -> None:
        flat = photograph()
        other = replace(CAMERA, tilt_deg=4.0, rotation_deg=-3.0, pixels_per_mm=12.0)
        lit = take_photograph(flat.card, other, 9, "jpeg-92", Lamp(azimuth_deg=90))
        file = ShotFile(path=self.written(lit, "low"), light="rake", azimuth_deg=90, elevation_deg=20)
        document = measure_image(self.written(flat), layout(), flat.reference, other_shots=[file]).document
        [shot] = document["shots"]
        self.assertLess(shot["registration_mm"], 0.1)
        self.assertEqual((shot["azimuth_deg"], shot["file"]), (90, "low.jpg"))
        self.assertIn(("registration", "pass"), [(g["id"], g["state"]) for g in document["calibration"]["gates"]])

    def test_a_shift_is_measured_as_it_is(self) -> None:
        import cv2

        picture = Picture(pixels=photograph().image)
        size = (picture.pixels.shape[1], picture.pixels.shape[0])
        geometry, _ = place_card(cards_in(see_tags(picture.pixels), layout(), size)[0], layout())
        step = 0.3 * geometry.pixels_per_mm
        moved = cv2.warpAffine(picture.pixels, np.array([[1, 0, step], [0, 1, 0]]), size)
        apart = registration_mm((picture, geometry), (Picture(pixels=np.asarray(moved)), geometry), layout())
        self.assertAlmostEqual(apart or 0.0, 0.3, delta=0.04)

    def test_shots_of_two_cards_are_refused(self) -> None:
        flat = photograph()
        swapped: dict[str, SimulatedPaint] = {"S1": PAINTS["S2"], "S2": paint_of_codes("Green", ("PG7",), (1.0,))}
        stranger = take_photograph(card_for_camera(layout(), swapped, CAMERA, 5), CAMERA, 6, "jpeg-92", Lamp(azimuth_deg=0))
        file = ShotFile(path=self.written(stranger, "other"), light="rake", azimuth_deg=0)
        with self.assertRaisesRegex(NothingMeasurable, "different cards"):
            measure_image(self.written(flat), layout(), flat.reference, other_shots=[file])

    def test_zones_of_one_hue_under_a_light_that_falls_off_are_still_the_same_card(self) -> None:
        rng = np.random.default_rng(3)
        centres = rng.uniform(0, 140, (6, 2))
        # A blue takes red away and leaves blue: that channel shows the light alone.
        amounts = np.array([2.0, 1.0, 0.4, 2.0, 1.0, 0.4])[:, None]
        even = -amounts * [1.0, 0.3, 0.02]
        lamp = even + (0.8 * centres[:, :1] / 140 - 0.3) + rng.normal(0, 0.01, (6, 3))
        self.assertTrue(alike(even, lamp, centres))
        self.assertFalse(alike(even, -amounts[::-1] * [0.02, 0.4, 1.0], centres))

    def test_a_shot_that_shows_no_card_is_left_out_and_named(self) -> None:
        import cv2

        flat = photograph()
        path = self.written(flat)
        blank = self.folder / "blank.png"
        cv2.imwrite(str(blank), np.full((400, 500, 3), 120, np.uint8))
        shot = ShotFile(path=blank, light="rake", azimuth_deg=90.0, name="my blank.png")
        document = measure_image(path, layout(), flat.reference, other_shots=[shot]).document
        self.assertIsNotNone(document["swatches"]["S1"]["masstone"]["lab"])
        self.assertEqual(document["shots"], [])
        [told] = document["calibration"]["warnings"]
        self.assertTrue(told.startswith("Measured without my blank.png: ") and "tags" in told)
        self.assertIn("low lamp", document["swatches"]["S1"]["sparkle"]["absent"])

    def test_what_a_card_still_lacks(self) -> None:
        self.assertEqual(lacking_shots({"masstone"}, False, [], True), [])
        self.assertIn("flat", lacking_shots({"masstone"}, False, [], False)[0])
        self.assertIn("two shots", lacking_shots({"masstone"}, True, [], True)[0])
        self.assertIn("one more", lacking_shots({"masstone"}, True, [10.0, 350.0], True)[0])
        self.assertEqual(lacking_shots({"black_paper"}, False, [0.0, 180.0], True), [])
        # A scan of the card turned round is lit from another side; one that lies as the first did is not.
        self.assertEqual(lacking_shots({"masstone"}, True, [], True, [-179.0]), [])
        self.assertIn("two shots", lacking_shots({"masstone"}, True, [], True, [0.4])[0])

    def test_what_more_shots_would_tell(self) -> None:
        [told] = telling_shots({"masstone"}, [10.0, 350.0])
        self.assertIn("glints", told)
        [told] = telling_shots({"masstone"}, [], [180.0])
        self.assertNotIn("glints", told)
        self.assertIn("grain", told)
        self.assertEqual(telling_shots({"masstone"}, [0.0, 90.0]), [])
        self.assertEqual(telling_shots({"paper"}, []), [])


class Faults(Folder):
    """What the gates say to each fault, and where."""

    def gates(self, fault: Fault) -> dict[str, Gate]:
        card = spoil_card(photograph().card, fault, 3)
        shot = take_photograph(card, spoil_camera(CAMERA, fault), 4, "jpeg-92", fault=fault)
        capture = calibrate(read_picture(self.written(shot)), layout(), shot.reference)
        return {g.id: g for g in capture.calibration.gates if g.state != "pass"}

    def test_each_fault_is_named_by_its_own_gate(self) -> None:
        expected: dict[Fault, str] = {
            "glare": "glare", "thumb": "tags", "overexposed": "clipping", "blur": "focus", "noise": "noise", "fall-off": "fall-off",
            "tilt": "tilt", "coarse": "resolution", "stain": "paper-shade", "wrong-target": "residual", "white-balance": "clipping",
            "veil": "glare", "shadow": "paper-shade", "two-lights": "fall-off", "underexposed": "exposure", "yellowed": "residual",
            "narrow-colours": "clipping",
        }  # fmt: skip
        self.assertEqual(set(expected), set(FAULTS))
        for fault, gate in expected.items():
            with self.subTest(fault=fault):
                said = self.gates(fault)
                self.assertIn(gate, said)
                self.assertGreater(len(said[gate].advice), 30)
                if fault == "two-lights":
                    self.assertIn("colour", said[gate].advice)
                if gate in {"glare", "tags", "clipping", "fall-off", "paper-shade"}:
                    self.assertTrue(said[gate].where)

    def test_a_card_that_curls_is_put_right_or_called_so_and_not_taken_for_one_that_mirrors(self) -> None:
        import cv2

        layout = build_card("CURL", "A5", [SwatchLabel(p.name) for p in PAINTS.values()])
        shot = take_photograph(card_for_camera(layout, PAINTS, CAMERA, 3), CAMERA, 4, "tiff-16")
        height, width = shot.image.shape[:2]
        x, y = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
        for curl_mm, expected in ((1.0, set()), (2.0, {"flatness"})):
            with self.subTest(curl_mm=curl_mm):
                lifted = (curl_mm * CAMERA.pixels_per_mm * np.sin(np.pi * x / width)).astype(np.float32)
                bent = cv2.remap(shot.image, x, y + lifted, cv2.INTER_CUBIC)
                capture = calibrate(Picture(pixels=bent, source="bent.tif"), layout, reference_of(shot.card))
                self.assertEqual({g.id for g in capture.calibration.gates if g.state != "pass"}, expected)
                if not expected:  # what the terms of a lens can stand for, they do
                    self.assertLess(capture.calibration.geometry.reprojection_px / CAMERA.pixels_per_mm, 0.06)

    def test_a_picture_saved_too_small_says_so(self) -> None:
        import cv2

        shot = photograph()
        for quality, spoken in ((92, False), (20, True)):
            path = self.folder / f"{quality}.jpg"
            path.write_bytes(
                cv2.imencode(".jpg", (shot.image[..., ::-1] >> 8).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, quality])[1].tobytes()
            )
            capture = calibrate(read_picture(path), layout(), reference_of(shot.card))
            gate = next(g for g in capture.calibration.gates if g.id == "compression")
            self.assertEqual(gate.state != "pass", spoken, quality)
