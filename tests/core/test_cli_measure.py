"""`gelvet measure`: files and tables, exit status, one line on standard error, never a traceback."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path

from gelvet.cli.companions import Companions
from gelvet.core.formats.capture_file import read_capture
from gelvet.core.formats.card_layout import read_layout
from tests import command_line, simulated
from tests.command_line import run


class Measure(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.made = simulated.bench()

    def copy(self) -> Path:
        for path in self.made.folder.iterdir():
            shutil.copy(path, self.folder)
        return self.folder / "card.capture.json"

    def change(self, **changes: object) -> Path:
        path = self.copy()
        path.write_text(json.dumps(json.loads(path.read_text()) | changes))
        return path

    def test_a_capture_becomes_a_measurement_file(self) -> None:
        out = self.folder / "y.measure.json"
        status, printed, errors = run("measure", self.made.capture_path, "--out", out)
        self.assertEqual((status, printed, errors), (0, "", ""))
        document = json.loads(out.read_text("utf-8"))
        self.assertEqual(document["card_id"], simulated.CARD_ID)
        self.assertEqual(document["calibration"]["tier"], "target")

    def test_an_image_with_its_layout_gives_the_same_and_a_table_for_people(self) -> None:
        status, printed, _ = run("measure", self.made.image, "--layout", self.made.layout_path, "--reference", self.made.reference_path)
        self.assertEqual(status, 0)
        self.assertRegex(printed, r"card TEST-CARD-01  tier target")
        self.assertIn("too grey", printed)

    def test_half_a_file_is_one_line(self) -> None:
        half = self.folder / "half.tif"
        half.write_bytes(b"II*\0" + (10_000_000).to_bytes(4, "little") + bytes(200_000))  # what describes the picture stood at its end
        status, _, errors = run("measure", half, "--layout", self.made.layout_path, "--reference", self.made.reference_path)
        self.assertEqual((status, errors.count("\n")), (2, 1), errors)
        self.assertIn("half.tif is damaged", errors)

    def test_a_card_in_other_units_is_one_line_and_nothing_is_written(self) -> None:
        for name, millimetres in (("inches", 25.4), ("centimetres", 10.0)):
            with self.subTest(unit=name):
                path = self.copy()
                [card] = self.folder.glob("*.card.json")
                document = json.loads(card.read_text())
                document["size_mm"] = [side / millimetres for side in document["size_mm"]]
                for place in document["zones"] + document["reference"]["patches"]:
                    place["rect_mm"] = [value / millimetres for value in place["rect_mm"]]
                for tag in document["fiducials"]["tags"]:
                    tag["center_mm"] = [value / millimetres for value in tag["center_mm"]]
                    tag["size_mm"] /= millimetres
                card.write_text(json.dumps(document))
                out = self.folder / f"{name}.json"
                status, _, errors = run("measure", path, "--out", out)
                self.assertEqual((status, errors.count("\n"), out.exists()), (2, 1, False), errors)
                self.assertIn("check its units", errors)

    def test_a_missing_patch_is_a_warning(self) -> None:
        path = self.copy()
        target = self.folder / "card.reference.txt"
        target.write_text("\n".join(line for line in target.read_text().splitlines() if not line.startswith("A5 ")))
        status, _, errors = run("measure", path, "--out", self.folder / "o.json")
        self.assertEqual(status, 0)
        self.assertRegex(errors, "warning: Patches A5 could not be used")

    def test_bad_input_exits_2_with_one_line_that_names_the_file(self) -> None:
        path = self.copy()
        (self.folder / "empty.tif").write_bytes(b"")
        (self.folder / "broken.card.json").write_text("{")
        (self.folder / "twice.txt").write_text(self.made.reference_path.read_text().replace("\nA2 ", "\nA1 "))
        cases = {
            "empty.tif": {"shots": [{"file": "empty.tif", "light": "diffuse"}]},
            "gone.tif": {"shots": [{"file": "gone.tif", "light": "diffuse"}]},
            "broken.card.json": {"layout": "broken.card.json"},
            "twice.txt": {"reference": "twice.txt"},
            "outside": {"layout": "../card.card.json"},
            "version 2": {"version": 2},
            "diffuse": {"shots": [{"file": "card.tif", "light": "rake", "azimuth_deg": 0, "elevation_deg": 20}]},
        }
        original = json.loads(path.read_text())
        for words, changes in cases.items():
            with self.subTest(words=words):
                path.write_text(json.dumps(original | changes))
                status, printed, errors = run("measure", path, "--out", self.folder / "o.json")
                self.assertEqual((status, printed), (2, ""))
                self.assertEqual(errors.count("\n"), 1, errors)
                self.assertIn(words, errors)
                self.assertNotIn("Traceback", errors)
                self.assertFalse((self.folder / "o.json").exists())

    def test_nothing_measurable_exits_1(self) -> None:
        path = self.copy()
        layout = json.loads((self.folder / "card.card.json").read_text()) | {"card_id": "OTHER"}
        (self.folder / "card.card.json").write_text(json.dumps(layout))
        status, _, errors = run("measure", path, "--out", self.folder / "o.json")
        self.assertEqual(status, 1)
        self.assertIn("choose the matching layout", errors)

    def test_every_shot_of_a_capture_must_be_readable_and_show_the_same_card(self) -> None:
        import numpy as np

        rake = {"light": "rake", "azimuth_deg": 0, "elevation_deg": 20}
        path = self.copy()
        original = json.loads(path.read_text())
        layout = self.made.layout
        pixels = self.made.capture.image.copy()
        rows = slice(round(0.14 * len(pixels)), round(0.86 * len(pixels)))
        pixels[rows] = pixels[rows][::-1]  # tags and patches stay, every painted row is another one
        simulated.write_tiff(self.folder / "other.tif", pixels)
        simulated.write_tiff(
            self.folder / "dim.tif", (self.made.capture.image * np.linspace(1, 0.6, pixels.shape[1])[:, None]).astype(np.uint16)
        )
        (self.folder / "none.tif").write_bytes(b"")
        self.assertGreater(len(layout.zones), 6)
        for name, expected, words in (("dim.tif", 0, ""), ("other.tif", 1, "different cards"), ("none.tif", 2, "none.tif is empty")):
            with self.subTest(name=name):
                path.write_text(json.dumps(original | {"shots": [*original["shots"], {"file": name, **rake}]}))
                status, _, errors = run("measure", path, "--out", self.folder / "o.json")
                self.assertEqual(status, expected, errors)
                self.assertIn(words, errors)

    def test_a_failed_gate_exits_1_and_still_writes(self) -> None:
        status, _, errors = run("measure", self.change(reference=None, state="wet"), "--out", self.folder / "o.json")
        self.assertEqual(status, 1)
        self.assertTrue((self.folder / "o.json").exists())
        self.assertIn("CGATS", errors)
        self.assertIn("captured wet", errors)
        self.assertEqual(errors.count("\n"), 1, errors)

    def test_several_captures_go_into_a_folder_and_one_bad_one_stops_no_other(self) -> None:
        path = self.copy()
        bad = self.folder / "bad.capture.json"
        bad.write_text("[]")
        status, _, errors = run("measure", bad, path, "--out", self.folder / "results")
        self.assertEqual(status, 2)
        self.assertIn("bad.capture.json", errors)
        self.assertTrue((self.folder / "results" / "card.measure.json").exists())

    def test_wrong_usage_exits_2(self) -> None:
        for arguments in (["measure"], ["unknown"], ["measure", str(self.made.image)], ["measure", str(self.folder / "none.tif")]):
            with self.subTest(arguments=arguments):
                self.assertEqual(run(*arguments)[0], 2)

    def test_a_folder_that_cannot_be_written_is_said(self) -> None:
        status, _, errors = run("measure", self.made.capture_path, "--out", self.folder / "none" / "o.json")
        self.assertEqual(status, 2)
        self.assertIn("cannot be written", errors)


# What several tests measure, made once.
_WITH_A_LAMP = ("--sheet", "A6", "--swatches", "1", "--camera", "daylight", "--lamps", "1", "--seed", "4")
_IN_THREE_STATES = ("--sheet", "A5", "--swatches", "1", "--dpi", "150", "--also", "wet", "--also", "before_lifting", "--seed", "6")


class OtherCaptures(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_a_photograph_with_a_low_lamp_is_measured_like_any_capture(self) -> None:
        capture = command_line.simulated(self.folder, *_WITH_A_LAMP)
        out = self.folder / "m.json"
        status, _, errors = run("measure", capture, "--out", out)
        self.assertEqual(status, 0, errors)
        document = json.loads(out.read_text("utf-8"))
        self.assertLess(document["shots"][0]["registration_mm"], 0.1)
        self.assertIsNotNone(document["swatches"]["S1"]["masstone"]["lab"])

    def test_a_card_is_measured_with_shots_of_it_wet_and_before_lifting(self) -> None:
        capture = command_line.simulated(self.folder, *_IN_THREE_STATES)
        out = self.folder / "m.json"
        run("measure", capture, "--out", out)
        document = json.loads(out.read_text("utf-8"))
        self.assertEqual([s["state"] for s in document["shots"]], ["wet", "before_lifting"])
        swatch = document["swatches"]["S1"]
        self.assertGreater(swatch["drying"]["masstone"]["delta_L"], 0)
        # The patch that was left beside it is the nearer witness.
        self.assertFalse(swatch["lifting"]["before"])

    def test_a_wet_and_a_dry_capture_given_together_tell_the_drying_shift(self) -> None:
        together = command_line.simulated(self.folder, *_IN_THREE_STATES)
        whole = json.loads(together.read_text())
        whole["shots"] = [s for s in whole["shots"] if s.get("state") != "before_lifting"]
        together.write_text(json.dumps(whole))
        for state in ("dry", "wet"):
            own = [{k: v for k, v in s.items() if k != "state"} for s in whole["shots"] if s.get("state", "dry") == state]
            (self.folder / f"{state}.capture.json").write_text(json.dumps(whole | {"state": state, "shots": own}))
        run("measure", together, "--out", self.folder / "m.json")
        apart = (self.folder / "dry.capture.json", self.folder / "wet.capture.json")
        status, _, errors = run("measure", *apart, "--out", self.folder / "out")
        self.assertEqual(status, 0, errors)
        one, two, wet = (
            json.loads((self.folder / name).read_text("utf-8"))["swatches"]["S1"]["drying"]
            for name in ("m.json", "out/dry.measure.json", "out/wet.measure.json")
        )
        self.assertGreater(two["masstone"]["delta_L"], 0)
        self.assertEqual(two, one)
        self.assertEqual(wet["absent"], "the card was captured wet")
        status, _, errors = run("measure", *apart, self.too_bright(apart[1]), "--out", self.folder / "again")
        self.assertEqual(status, 1)
        self.assertIn("bright.capture.json", errors)
        again = json.loads((self.folder / "again" / "dry.measure.json").read_text("utf-8"))
        self.assertEqual(again["swatches"]["S1"]["drying"], one)

    def test_of_several_wet_captures_the_one_of_a_file_like_the_dry_ones_counts(self) -> None:
        """The last one did: a wet photograph beside a scan, whose colours cannot be compared, though a wet scan was there."""
        companions, layout = Companions(), self.layout_path()
        for name, state in (("dry.tif", "dry"), ("scanned.TIF", "wet"), ("photograph.jpg", "wet")):
            document = {"format": "gelvet.capture", "version": 1, "layout": layout.name, "state": state, "shots": [{"file": name}]}
            path = self.folder / f"{name}.capture.json"
            path.write_text(json.dumps(document), "utf-8")
            (self.folder / name).touch()
            companions.keep(path, None, failed=False)
        dry = read_capture(self.folder / "dry.tif.capture.json")
        self.assertEqual([s.path.name for s in companions.of(read_layout(layout).card_id, dry)], ["scanned.TIF"])
        spoilt = Companions()
        for name, failed in (("photograph.jpg", False), ("scanned.TIF", True)):
            spoilt.keep(self.folder / f"{name}.capture.json", None, failed=failed)
        self.assertEqual([s.path.name for s in spoilt.of(read_layout(layout).card_id, dry)], ["photograph.jpg"])

    def layout_path(self) -> Path:
        run("card", "--id", "DUNE-1", "--swatch", "Thrift", "--out", self.folder)
        return self.folder / "DUNE-1.card.json"

    def too_bright(self, source: Path) -> Path:
        """The capture again, so bright that its paper clips."""
        import numpy as np
        import tifffile

        whole = json.loads(source.read_text("utf-8"))
        image = tifffile.imread(self.folder / whole["shots"][0]["file"]).astype(float)
        tifffile.imwrite(self.folder / "bright.tif", np.minimum(image * 1.5, 65535).astype(np.uint16), photometric="rgb")
        made = self.folder / "bright.capture.json"
        made.write_text(json.dumps(whole | {"shots": [{"file": "bright.tif"}]}))
        return made

    def test_a_wet_capture_that_cannot_be_read_leaves_the_dry_one_as_it_is(self) -> None:
        made = ("--sheet", "A6", "--swatches", "1", "--dpi", "150", "--seed", "6")
        _, printed, _ = run("simulate", "--out", self.folder, *made)
        (self.folder / "empty.tif").write_bytes(b"")
        wet = self.folder / "wet.capture.json"
        whole = json.loads(Path(printed.strip()).read_text())
        wet.write_text(json.dumps(whole | {"state": "wet", "shots": [{"file": "empty.tif"}]}))
        status, _, errors = run("measure", printed.strip(), wet, "--out", self.folder / "out")
        self.assertEqual(status, 2)
        self.assertIn("empty.tif is empty", errors)
        self.assertEqual(len(list((self.folder / "out").glob("*.measure.json"))), 1)

    def test_a_scan_of_two_cards_gives_two_measurements(self) -> None:
        import numpy as np
        import tifffile

        made = ("--sheet", "A6", "--swatches", "1", "--cards", "2", "--dpi", "200", "--scanner", "white-led")
        run("simulate", "--out", self.folder, *made)
        images = [tifffile.imread(path) for path in sorted(self.folder.glob("*.tif"))]
        width = max(image.shape[1] for image in images)
        padded = [np.pad(image, ((0, 0), (0, width - image.shape[1]), (0, 0)), constant_values=60000) for image in images]
        page = self.folder / "page.tif"
        tifffile.imwrite(page, np.concatenate(padded), photometric="rgb")
        layouts = sorted(self.folder.glob("*.card.json"))
        reference = next(iter(sorted(self.folder.glob("*.reference.txt"))))
        out = self.folder / "both.json"
        status, _, _ = run("measure", page, "--layout", *layouts, "--reference", reference, "--out", out)
        whole = json.loads(out.read_text("utf-8"))
        self.assertEqual([m["card_id"] for m in whole["measurements"]], [read_layout(path).card_id for path in layouts])
        self.assertIn(status, {0, 1})  # the second card carries another target than the one that was given
        status, _, errors = run("measure", page, "--layout", layouts[0], "--out", out)
        self.assertEqual(status, 1)
        self.assertIn("choose the matching layout", errors)

    def test_several_layouts_for_the_shots_of_one_card_are_refused_and_none_is_left_out(self) -> None:
        capture = command_line.simulated(self.folder, *_WITH_A_LAMP)
        layout = next(self.folder.glob("*.card.json"))
        other = self.folder / "other.card.json"
        other.write_text(layout.read_text("utf-8").replace(read_layout(layout).card_id, "OTHER-1"))
        out = self.folder / "m.json"
        status, _, errors = run("measure", capture, "--layout", layout, other, "--out", out)
        self.assertEqual((status, errors.count("\n"), out.exists()), (2, 1, False))
        self.assertIn("give only the layout of that card", errors)
