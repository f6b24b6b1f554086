"""Sheets without a printed card through the interface: taken in, found anew, corrected, measured, refused."""

import io
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, TransactionTestCase
from PIL import Image as Pillow

from gelvet.site.bench.models import Card
from gelvet.site.captures.models import Capture, CaptureState, Original
from gelvet.site.results.models import Measurement
from tests.loose import scanned_jpeg
from tests.site.interface import Asking
from tests.site.scene import OwnDataFolder, paints, session_with_simulated_card, work


def blank() -> bytes:
    data = io.BytesIO()
    Pillow.fromarray(np.full((400, 500, 3), 240, np.uint8)).save(data, "PNG")
    return data.getvalue()


class OneSheet(OwnDataFolder, Asking):
    def take_in(self, data: bytes, name: str = "old swatches (1).jpg") -> Any:
        key = self.sent_in_parts(data, name)
        return self.send("post", f"/api/uploads/{key}/sheet", {})

    def sent_in_parts(self, data: bytes, name: str, parts: int = 3) -> str:
        """The key of an upload that has come whole."""
        key: str = self.send("post", "/api/uploads", {"name": name, "size": len(data)}).json()["key"]
        length = -(-len(data) // parts)
        for start in range(0, len(data), length):
            body = {"file": SimpleUploadedFile(name, data[start : start + length]), "offset": str(start)}
            self.client.post(f"/api/uploads/{key}/parts", body, headers={"X-CSRFToken": self.token})
        return key

    def card(self, card_id: str) -> Any:
        return self.client.get(f"/api/cards/{card_id}").json()


class Measured(OneSheet, TransactionTestCase):
    def test_an_old_scan_becomes_a_card_that_is_measured_named_and_compared(self) -> None:
        taken = self.take_in(scanned_jpeg())
        self.assertEqual(taken.status_code, 201, taken.content)
        card_id = taken.json()["card_id"]
        self.assertEqual(card_id, "OLD-SWATCHES-1")
        self.assertRegex(taken.json()["said"], r"^\d+ swatches were found")
        card = self.card(card_id)
        swatch = next(z["swatch"] for z in card["layout"]["zones"] if z["kind"] == "gradient")
        squall = paints()[0]
        body = {"revision": card["revision"], "layout": card["layout"], "paints": {swatch: squall.pk}}
        work()
        kept = self.send("put", f"/api/cards/{card_id}/sheet", body)
        self.assertEqual(kept.json()["paints"][swatch]["id"], squall.pk, kept.content)
        self.assertEqual(Capture.objects.get().state, CaptureState.QUEUED)
        work()
        self.assertEqual(Measurement.objects.count(), 2)
        document = Measurement.objects.first().document  # type: ignore[union-attr]
        self.assertEqual((document["calibration"]["tier"], document["calibration"]["pixels_per_mm"]), ("grey", None))
        self.assertIsNotNone(document["swatches"][swatch]["masstone"]["lab"])
        shown = self.client.get(f"/api/paints/{squall.pk}/profile").json()
        self.assertIn(card_id, str(shown))


class Corrected(OneSheet, TestCase):
    def test_the_same_file_again_is_the_sheet_that_is_here(self) -> None:
        data = scanned_jpeg()
        first = self.take_in(data).json()
        again = self.take_in(data, "copy.jpg").json()
        self.assertEqual(again["card_id"], first["card_id"])
        self.assertIn("here already", again["said"])
        self.assertEqual(Card.objects.count(), 1)

    def test_where_nothing_is_found_the_sheet_stays_for_zones_by_hand(self) -> None:
        taken = self.take_in(blank(), "white.png").json()
        self.assertIn("No swatches were found on light paper in white.png", taken["said"])
        self.assertEqual([z["kind"] for z in self.card(taken["card_id"])["layout"]["zones"]], ["paper"])

    def test_half_a_file_is_no_sheet_yet_and_goes_on_from_there(self) -> None:
        data = scanned_jpeg()
        key = self.send("post", "/api/uploads", {"name": "half.jpg", "size": len(data)}).json()["key"]
        half = len(data) // 2
        for start, part in ((0, data[:half]), (half, data[half:])):
            self.assert_problem(self.send("post", f"/api/uploads/{key}/sheet", {}), 409, "unfinished", f"byte {start}")
            body = {"file": SimpleUploadedFile("half.jpg", part), "offset": str(start)}
            self.client.post(f"/api/uploads/{key}/parts", body, headers={"X-CSRFToken": self.token})
        self.assertEqual(Card.objects.count(), 0)
        self.assertEqual(self.send("post", f"/api/uploads/{key}/sheet", {}).status_code, 201)

    def test_what_is_no_image_is_refused_and_kept(self) -> None:
        self.assert_problem(self.take_in(b"no picture at all", "notes.txt"), 422, "not-an-image", "notes.txt")
        self.assertEqual((Original.objects.count(), Card.objects.count()), (1, 0))

    def test_corners_are_pulled_and_swatches_found_anew(self) -> None:
        card_id = self.take_in(scanned_jpeg()).json()["card_id"]
        layout = self.card(card_id)["layout"]
        width, height = layout["placement"]["image_px"]
        half = [[0, 0], [width * 0.7, 0], [width * 0.7, height], [0, height]]
        found = self.send("post", f"/api/cards/{card_id}/sheet/find", {"corners_px": half, "size_mm": [150, 152]}).json()
        self.assertEqual(found["layout"]["size_mm"], [150, 152])
        self.assertEqual(found["layout"]["placement"]["scale"], "size")
        self.assertLess(len(found["layout"]["swatches"]), len(layout["swatches"]))
        self.assertEqual(self.card(card_id)["layout"], layout)  # nothing is kept by looking
        crossed = self.send("post", f"/api/cards/{card_id}/sheet/find", {"corners_px": half[::-1]})
        self.assert_problem(crossed, 422, "unreadable-layout", "clockwise")

    def test_a_correction_that_cannot_be_is_refused_with_a_sentence(self) -> None:
        card_id = self.take_in(scanned_jpeg()).json()["card_id"]
        card = self.card(card_id)
        path = f"/api/cards/{card_id}/sheet"
        stale = {"revision": card["revision"] - 1, "layout": card["layout"]}
        self.assert_problem(self.send("put", path, stale), 409, "changed-elsewhere")
        twice = {**card["layout"], "zones": [*card["layout"]["zones"], card["layout"]["zones"][0]]}
        self.assert_problem(self.send("put", path, {"revision": card["revision"], "layout": twice}), 422, "unreadable-layout", "twice")
        cornerless = {k: v for k, v in card["layout"].items() if k != "placement"}
        self.assert_problem(self.send("put", path, {"revision": card["revision"], "layout": cornerless}), 422, "unreadable-layout", "tags")
        stranger = {"revision": card["revision"], "layout": card["layout"], "paints": {card["layout"]["swatches"][0]["id"]: 9999}}
        self.assert_problem(self.send("put", path, stranger), 400, "unknown-paint")
        self.assertEqual(self.card(card_id), card)

    def test_its_image_is_shown_whole_and_straight(self) -> None:
        card_id = self.take_in(scanned_jpeg()).json()["card_id"]
        layout = self.card(card_id)["layout"]
        for view, shape in (("whole", layout["placement"]["image_px"]), ("straight", layout["size_mm"])):
            answer = self.client.get(f"/api/cards/{card_id}/sheet.jpg?view={view}")
            shown = Pillow.open(io.BytesIO(answer.content))
            self.assertAlmostEqual(shown.width / shown.height, shape[0] / shape[1], delta=0.02)

    def test_a_printed_card_is_no_loose_sheet(self) -> None:
        _, card = session_with_simulated_card()
        for answer in (
            self.client.get(f"/api/cards/{card.card_id}/sheet.jpg"),
            self.send("post", f"/api/cards/{card.card_id}/sheet/find", {}),
            self.send("put", f"/api/cards/{card.card_id}/sheet", {"revision": card.revision, "layout": card.layout}),
        ):
            self.assert_problem(answer, 409, "printed-card", "its own tags")

    def test_no_lamp_shot_is_laid_over_a_sheet_without_tags(self) -> None:
        card_id = self.take_in(scanned_jpeg()).json()["card_id"]
        body = {"file": SimpleUploadedFile("low.png", blank()), "low_lamp": True, "azimuth_deg": 90}
        answer = self.client.post(f"/api/cards/{card_id}/captures", body, headers={"X-CSRFToken": self.token})
        self.assert_problem(answer, 400, "no-tags", "no shot can be laid")
