"""Many shots and many files: low lamps beside a flat shot, zips, a watched folder, uploads in parts, the device panel."""

import copy
import hashlib
import io
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
import tifffile
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase, TransactionTestCase
from PIL import Image as Pillow

from gelvet.core.capture.judging.drift import drift
from gelvet.core.capture.judging.gates import drift_gate
from gelvet.site.bench.models import Card, Question, Session
from gelvet.site.bench.services import create_session
from gelvet.site.captures.models import Arrival, Capture, CaptureState, Original, Shot, Upload
from gelvet.site.captures.parcels import MAXIMUM_FILES
from gelvet.site.captures.watching import WatchedFolder
from gelvet.site.library.models import Paint
from gelvet.site.results.models import Measurement
from gelvet.site.results.target_history import earlier_errors
from tests import simulated
from tests.site.interface import Asking
from tests.site.scene import OwnDataFolder, plan, session_with_simulated_card, work


def picture(grey: int = 200) -> bytes:
    """A small TIFF without a card."""
    data = io.BytesIO()
    tifffile.imwrite(data, np.full((220, 300, 3), grey, np.uint8), photometric="rgb")
    return data.getvalue()


class OneCard(OwnDataFolder, Asking):
    """A bench with the simulated card."""

    card: Card

    def setUp(self) -> None:
        super().setUp()
        _, self.card = session_with_simulated_card()

    def add(self, data: bytes, name: str = "shot.tif", **light: Any) -> Any:
        body = {"file": SimpleUploadedFile(name, data), **light}
        return self.client.post(f"/api/cards/{self.card.card_id}/captures", body, headers={"X-CSRFToken": self.token})

    def use(self, device: dict[str, Any]) -> Any:
        return self.send("post", f"/api/cards/{self.card.card_id}/device", device)

    def drop(self, name: str, data: bytes) -> Any:
        return self.client.post("/api/inbox", {"file": SimpleUploadedFile(name, data)}, headers={"X-CSRFToken": self.token}).json()


class Shots(OneCard, TestCase):
    def test_shots_come_in_any_order_and_find_their_flat_one(self) -> None:
        first = self.add(picture(90), low_lamp=True, azimuth_deg=90, elevation_deg=20).json()["capture"]
        self.assertEqual((first["state"], first["file"], len(first["shots"])), ("incomplete", None, 1))
        self.assert_problem(self.send("post", f"/api/captures/{first['id']}/run-again"), 409, "incomplete")
        flat = self.add(simulated.bench().image.read_bytes()).json()["capture"]
        self.assertEqual((flat["id"], flat["state"]), (first["id"], "queued"))
        later = self.add(picture(91), low_lamp=True, azimuth_deg=0).json()
        self.assertEqual((later["capture"]["id"], [s["azimuth_deg"] for s in later["capture"]["shots"]]), (first["id"], [90, 0]))
        self.assertTrue(self.add(picture(91), low_lamp=True).json()["known"])
        self.assertEqual(Capture.objects.count(), 1)

    def test_the_devices_shots_come_in_any_order_too(self) -> None:
        camera = {"device": "camera", "kind": "daylight", "tone": "camera"}
        first = self.use(camera | {"lamp_azimuth_deg": 90}).json()
        self.assertEqual(first["state"], "incomplete")
        flat = self.use(camera).json()
        self.assertEqual((flat["id"], flat["state"], flat["source"], len(flat["shots"])), (first["id"], "queued", "camera", 1))

    def test_a_shot_taken_out_leaves_its_file(self) -> None:
        self.add(simulated.bench().image.read_bytes())
        shot = self.add(picture(90), low_lamp=True, azimuth_deg=0).json()["capture"]["shots"][0]
        left = self.send("delete", f"/api/shots/{shot['id']}").json()
        self.assertEqual((left["shots"], left["state"]), ([], "queued"))
        self.assertEqual((Shot.objects.count(), Original.objects.count()), (0, 2))
        self.assert_problem(self.send("delete", f"/api/shots/{shot['id']}"), 404, "not-found")

    def test_light_that_cannot_be_is_refused(self) -> None:
        for light in ({"beside": True}, {"azimuth_deg": 400}, {"elevation_deg": 0}, {"state": "damp"}):
            with self.subTest(light=light):
                self.assertEqual(self.add(picture(), low_lamp=True, **light).status_code, 400)


class Parcels(OneCard, TestCase):
    def zipped(self, files: dict[str, bytes]) -> bytes:
        data = io.BytesIO()
        with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as parcel:
            for name, content in files.items():
                parcel.writestr(name, content)
        return data.getvalue()

    def test_each_file_gets_a_line_and_goes_to_its_card(self) -> None:
        files = {
            "scans/ä card.tif": simulated.bench().image.read_bytes(), "scans/notes.txt": b"masstone first", "../../evil.tif": picture(),
            ".hidden": b"x", "empty.tif": b"",
        }  # fmt: skip
        lines = {line["name"]: line for line in self.drop("scans.zip", self.zipped(files))}
        self.assertEqual(set(lines), {"ä card.tif", "notes.txt", "evil.tif", "empty.tif"})
        self.assertEqual(lines["ä card.tif"]["card_id"], self.card.card_id)
        self.assertIn("no card code", lines["evil.tif"]["outcome"])
        self.assertIn("empty", lines["empty.tif"]["outcome"])
        self.assertEqual(Capture.objects.count(), 1)

    def test_bombs_broken_and_overfull_zips_are_refused(self) -> None:
        [bomb] = self.drop("bomb.zip", self.zipped({"huge.tif": bytes(30_000_000)}))
        self.assertIn("would unpack to", bomb["outcome"])
        whole = self.zipped({"a.tif": picture()})
        [broken] = self.drop("broken.zip", whole[:-30])
        self.assertIn("damaged", broken["outcome"])
        [many] = self.drop("many.zip", self.zipped({f"{i}.tif": b"x" for i in range(MAXIMUM_FILES + 1)}))
        self.assertIn("more than", many["outcome"])
        [empty] = self.drop("none.zip", self.zipped({}))
        self.assertIn("no files", empty["outcome"])
        self.assertEqual(list(Path(settings.ORIGINALS_DIR).glob(".incoming-*")), [])


class Watching(OneCard, TestCase):
    def test_a_file_is_handed_on_once_when_it_has_come_to_rest(self) -> None:
        folder = self.data / "scanner"
        folder.mkdir()
        (folder / "one.tif").write_bytes(simulated.bench().image.read_bytes()[:5000])
        (folder / "later.tif.part").write_bytes(b"half")
        watched = WatchedFolder(folder)
        self.assertEqual(list(watched.sweep()), [])
        (folder / "one.tif").write_bytes(simulated.bench().image.read_bytes())
        self.assertEqual(list(watched.sweep()), [])  # it has just changed
        [line] = watched.sweep()
        self.assertIn(self.card.card_id, line.outcome)
        self.assertEqual(list(watched.sweep()), [])
        again = WatchedFolder(folder)
        again.sweep()
        self.assertEqual([*again.sweep(), *again.sweep()], [])
        self.assertEqual((Arrival.objects.count(), Capture.objects.count()), (1, 1))
        self.assertTrue((folder / "one.tif").exists())

    def test_a_file_that_goes_meanwhile_gets_its_line_and_the_next_is_handed_on(self) -> None:
        folder = self.data / "drawer"
        folder.mkdir()
        for name in ("gone.tif", "kept.tif"):
            (folder / name).write_bytes(picture())
        watched = WatchedFolder(folder)
        list(watched.sweep())
        opened = Path.open

        def vanished(path: Path, *arguments: Any, **options: Any) -> Any:
            if path.name == "gone.tif":
                raise FileNotFoundError(2, "No such file or directory")
            return opened(path, *arguments, **options)

        with mock.patch.object(Path, "open", vanished):
            gone, kept = watched.sweep()
        self.assertIn("could not be read", gone.outcome)
        self.assertIn("no card code", kept.outcome)


class InParts(OneCard, TestCase):
    def begin(self, size: int, name: str = "big.tif") -> str:
        return str(self.send("post", "/api/uploads", {"name": name, "size": size}).json()["key"])

    def part(self, key: str, offset: int, data: bytes) -> Any:
        body = {"file": SimpleUploadedFile("part", data), "offset": offset}
        return self.client.post(f"/api/uploads/{key}/parts", body, headers={"X-CSRFToken": self.token})

    def test_a_file_arrives_whole_over_a_broken_connection(self) -> None:
        data = simulated.bench().image.read_bytes()
        key = self.begin(len(data))
        third = len(data) // 3
        self.part(key, 0, data[:third])
        self.assertEqual(self.send("get", f"/api/uploads/{key}").json()["received"], third)
        self.part(key, third // 2, data[third // 2 : 2 * third])  # sent again from an earlier place
        self.assert_problem(self.part(key, 2 * third + 5, data[2 * third + 5 :]), 409, "gap")
        self.assert_problem(self.send("post", f"/api/uploads/{key}/finish", {"card_id": self.card.card_id}), 409, "unfinished")
        self.part(key, 2 * third, data[2 * third :])
        done = self.send("post", f"/api/uploads/{key}/finish", {"card_id": self.card.card_id}).json()
        self.assertEqual(done["taken"]["capture"]["card_id"], self.card.card_id)
        original = Original.objects.get()
        self.assertEqual((original.size, original.name), (len(data), "big.tif"))
        self.assertEqual((Upload.objects.count(), list((Path(settings.WORK_DIR) / "uploads").iterdir())), (0, []))

    def test_without_a_card_it_goes_to_the_inbox(self) -> None:
        data = picture()
        key = self.begin(len(data))
        self.part(key, 0, data)
        [line] = self.send("post", f"/api/uploads/{key}/finish", {}).json()["arrivals"]
        self.assertIn("no card code", line["outcome"])

    def test_sizes_that_cannot_be_and_parts_that_are_too_long(self) -> None:
        self.assert_problem(self.send("post", "/api/uploads", {"name": "a", "size": 0}), 422, "empty-file")
        with mock.patch.object(settings, "MAXIMUM_UPLOAD_BYTES", 1000):
            self.assert_problem(self.send("post", "/api/uploads", {"name": "a", "size": 2000}), 413, "too-large")
        self.assert_problem(self.part(self.begin(4), 0, b"12345"), 409, "too-long")
        self.assert_problem(self.send("get", "/api/uploads/00000000-0000-0000-0000-000000000000"), 404, "not-found")


class WithWorkers(OneCard, TransactionTestCase):
    def test_a_second_scan_of_the_card_turned_round_lies_beside_the_first(self) -> None:
        scan = tifffile.imread(simulated.bench().image)
        turned = io.BytesIO()
        tifffile.imwrite(turned, np.rot90(scan, 2), photometric="rgb")
        self.add(simulated.bench().image.read_bytes())
        capture = self.add(turned.getvalue(), "turned.tif", beside=True).json()["capture"]
        self.assertEqual([(s["file"], s["light"]) for s in capture["shots"]], [("turned.tif", "diffuse")])
        work()
        document = Capture.objects.get().measurements.get().document
        self.assertEqual([s["light"] for s in document["shots"]], ["diffuse"])
        self.assertLess(document["shots"][0]["registration_mm"], 0.1)
        for swatch in document["swatches"].values():
            self.assertLess(swatch["sheen"]["delta_e00"], 1)
            self.assertIsNone(swatch["sheen"]["absent"])

    def test_the_scanner_takes_a_second_scan_of_the_card_turned_round(self) -> None:
        Session.objects.update(question=Question.SPARKLE)
        self.add(simulated.bench().image.read_bytes())
        scanner = {"device": "flatbed", "dpi": 200, "rotation_deg": 180.4, "beside": True}
        capture = self.use(scanner).json()
        self.assertEqual([s["light"] for s in capture["shots"]], ["diffuse"])
        [card] = self.send("get", "/api/inbox").json()["waiting"]
        self.assertTrue(any("low lamp" in lack for lack in card["lacks"]))
        own = self.send("get", f"/api/cards/{card['card_id']}").json()
        self.assertEqual((own["lacks"], own["would_tell"]), (card["lacks"], []))
        work()
        [shot] = Capture.objects.get().measurements.get().document["shots"]
        self.assertAlmostEqual(abs(shot["rotation_deg"]), 179.6, delta=0.3)
        self.assertLess(shot["registration_mm"], 0.1)
        # Lit from the other side, it is what the glints of the first can be told by.
        [card] = self.send("get", "/api/inbox").json()["waiting"]
        self.assertFalse(any("low lamp" in lack for lack in card["lacks"]))
        own = self.send("get", f"/api/cards/{card['card_id']}").json()
        self.assertEqual(own["lacks"], [])
        self.assertIn("follows the paper", own["would_tell"][0])
        for refused in (
            scanner | {"rotation_deg": 400},
            {"device": "camera", "kind": "daylight", "tone": "srgb", "lamp_azimuth_deg": 0, "beside": True},
        ):
            self.assertEqual(self.use(refused).status_code, 400)

    def test_a_shot_without_a_card_spoils_nothing_and_says_which_it_is(self) -> None:
        self.add(simulated.bench().image.read_bytes())
        self.add(picture(90), "lamp-from-left.tif", low_lamp=True, azimuth_deg=180)
        work()
        capture = Capture.objects.get()
        self.assertEqual(capture.state, CaptureState.DONE)
        [told] = capture.measurements.get().document["calibration"]["warnings"]
        self.assertIn("Measured without lamp-from-left.tif: No tags", told)
        self.send("delete", f"/api/shots/{Shot.objects.get().pk}")
        work()
        capture.refresh_from_db()
        self.assertEqual(capture.state, CaptureState.DONE)

    def test_the_camera_takes_a_flat_shot_and_one_by_the_lamp(self) -> None:
        camera = {"device": "camera", "kind": "daylight", "tone": "camera"}
        self.card = create_session(plan(sheet="A6", paints=[Paint.objects.earliest("pk").pk])).cards.get()
        self.assertEqual(self.use(camera).status_code, 201)
        capture = self.use(camera | {"lamp_azimuth_deg": 90, "lamp_elevation_deg": 20}).json()
        self.assertEqual((capture["source"], len(capture["shots"])), ("camera", 1))
        work()
        document = Capture.objects.get().measurements.get().document
        self.assertEqual(document["calibration"]["tier"], "target")  # the devices bring their target's values along
        self.assertLess(document["shots"][0]["registration_mm"], 0.1)
        gates = {g["id"]: g["state"] for g in self.send("get", f"/api/captures/{capture['id']}").json()["gates"]}
        self.assertEqual(gates["registration"], "pass")


class Previews(OneCard, TestCase):
    def seen(self, query: str) -> Any:
        reply = self.client.get(f"/api/cards/{self.card.card_id}/preview.jpg?{query}")
        self.assertEqual(reply.status_code, 200)
        return np.asarray(Pillow.open(io.BytesIO(reply.content)), dtype=float)

    def test_the_preview_shows_what_the_settings_do(self) -> None:
        plain = self.seen("device=camera&kind=daylight&tone=camera")
        dark = self.seen("device=camera&kind=daylight&tone=camera&fault=fall-off")
        self.assertLess(dark.mean(), plain.mean() - 5)
        self.assertEqual(self.client.get(f"/api/cards/{self.card.card_id}/preview.jpg?device=telescope").status_code, 400)


class Targets(OneCard, TestCase):
    """The control chart of a reference target, from captures as a worker would have stored them."""

    def measured(self, errors: dict[str, list[float]], camera: str = "", failed: bool = False) -> Capture:
        document = copy.deepcopy(simulated.measured().document)
        document["calibration"]["patch_errors"] = errors
        document["device"] = {"camera": camera} if camera else {}
        document["calibration"]["gates"][0]["state"] = "fail" if failed else "pass"
        capture = Capture.objects.create(card=self.card, state="done")
        reference = hashlib.sha256(self.card.reference.encode()).hexdigest()
        Measurement.objects.create(capture=capture, document=document, inputs={"reference": reference}, algorithm="test", pictures="none")
        return capture

    def test_a_moved_patch_shows_against_captures_by_the_same_camera_alone(self) -> None:
        usual = {"A1": [0.2, 0.1, -0.3], "A2": [0.5, 0.0, 0.1]}
        for _ in range(4):
            self.measured(usual, "stand")
        self.measured({"A1": [9.0, 9.0, 9.0], "A2": [9.0, 9.0, 9.0]}, "telephone")
        self.measured({"A1": [9.0, 9.0, 9.0], "A2": [9.0, 9.0, 9.0]}, "stand", failed=True)
        now = Capture.objects.create(card=self.card)
        earlier = earlier_errors(now, self.card.reference)
        self.assertEqual({camera: len(rows) for camera, rows in earlier.items()}, {"stand": 4, "telephone": 1})
        self.assertIsNone(drift({"A1": (0.2, 0.1, -0.3)}, earlier["telephone"]))
        still, moved = drift({"A1": (0.3, 0.1, -0.3)}, earlier["stand"]), drift({"A1": (0.2, 5.1, -0.3)}, earlier["stand"])
        assert still is not None and moved is not None
        self.assertLess(still.moved, 0.2)
        self.assertEqual((moved.patch, round(moved.moved, 1), moved.earlier), ("A1", 5.0, 4))
        gate = drift_gate(moved, [])
        self.assertEqual(gate.state, "warn")
        self.assertIn("A1", gate.advice)

    def test_the_chart_has_a_point_for_each_capture_and_the_card_names_its_target(self) -> None:
        target = self.send("post", "/api/targets", {"name": "Dune chart", "text": self.card.reference, "measured_on": None}).json()
        for _ in range(3):
            self.measured({})
        points = self.send("get", f"/api/targets/{target['id']}/history").json()
        self.assertEqual(len(points), 3)
        self.assertGreater(points[0]["mean_de00"], 0)
        self.assertEqual(self.send("get", f"/api/cards/{self.card.card_id}").json()["target"], "Dune chart")
