"""Interchange files: what is written can be read again, and what is wrong is said in one sentence."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.mix_grid import build_mix_card
from gelvet.core.errors import CaptureError, LayoutError, MeasurementFileError, ReferenceTargetError, UnreadableInput
from gelvet.core.formats.capture_file import read_capture
from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
from gelvet.core.formats.cgats import ReferenceTarget, parse_reference, write_reference
from gelvet.core.formats.documents import check_document
from gelvet.core.formats.figures import number, numbers
from tests import simulated

HEAD = "CGATS.17\nBEGIN_DATA_FORMAT\n{fields}\nEND_DATA_FORMAT\nBEGIN_DATA\n{rows}\nEND_DATA\n"


def cgats(fields: str, *rows: str) -> str:
    return HEAD.format(fields=fields, rows="\n".join(rows))


class Figures(unittest.TestCase):
    def test_small_ones_keep_digits_of_their_own(self) -> None:
        written = {1.234567: 1.23457, -86.587712: -86.58771, 0.00123456: 0.00123, 0.0000123456: 0.0000123, 3e-17: 0.0, 0.0: 0.0}
        for value, digits in written.items():
            self.assertEqual(number(value), digits)
        self.assertEqual(numbers(np.array([[0.5, 2e-6]])), [0.5, 2e-6])
        self.assertIsNone(number(None))


class CardLayouts(unittest.TestCase):
    def setUp(self) -> None:
        self.layout = build_card("MARRAM-014", "A5", [SwatchLabel("Dune Ochre", "Saltings Colour Works", ("PY43",))])

    def test_a_card_is_read_as_it_was_built(self) -> None:
        labels = [SwatchLabel("Dune Ochre"), SwatchLabel("Kelp Gold")]
        mixes = build_mix_card("MIX", "A5", labels, [SwatchLabel("Thrift")])
        frame = Design("stroke", ("hiding",), framed=True)
        for built in (mixes, *(build_card("ANY", sheet, labels, d) for sheet in ("130x90", "A6", "A4") for d in (Design(), frame))):
            with self.subTest(card=built.card_id, sheet=built.extra["sheet"]):
                self.assertEqual(layout_from_document(json.loads(json.dumps(layout_to_document(built))), "x"), built)

    def test_round_trip_keeps_unknown_keys(self) -> None:
        document = layout_to_document(self.layout)
        document["studio"] = {"shelf": 3}
        document["zones"][0]["note"] = "thin"
        again = layout_to_document(layout_from_document(json.loads(json.dumps(document)), "x"))
        self.assertEqual(again, document)

    def test_a_newer_major_version_is_refused_by_name(self) -> None:
        document = layout_to_document(self.layout) | {"version": 2}
        with self.assertRaisesRegex(LayoutError, "new.card.json is version 2"):
            layout_from_document(document, "new.card.json")

    def test_what_is_wrong_is_named(self) -> None:
        good = layout_to_document(self.layout)
        zone = good["zones"][1]
        cases = {
            "twice": good | {"zones": [zone, zone]},
            "outside the card": good | {"zones": [zone | {"rect_mm": [205, 40, 90, 10]}]},
            "zones": {k: v for k, v in good.items() if k != "zones"},
            "rect_mm": good | {"zones": [zone | {"rect_mm": [1, 2, "wide", 4]}]},
            "size_mm": good | {"size_mm": [0, 148]},
            "8.27 × 5.83 mm.*units": good | {"size_mm": [8.27, 5.83]},
        }
        for word, document in cases.items():
            with self.subTest(word=word), self.assertRaisesRegex(LayoutError, f"^bad.card.json.*{word}"):
                layout_from_document(document, "bad.card.json")


class Targets(unittest.TestCase):
    def test_round_trip_with_spectra(self) -> None:
        target = simulated.bench().reference
        again = parse_reference(write_reference(target, "instrument"), "x")
        self.assertEqual(again.ids, target.ids)
        np.testing.assert_allclose(again.xyz, target.xyz, atol=2e-3)

    def test_lab_and_xyz_agree(self) -> None:
        by_xyz = parse_reference(cgats("SAMPLE_ID XYZ_X XYZ_Y XYZ_Z", "A1 96.42 100 82.49"), "x")
        by_lab = parse_reference(cgats("SAMPLE_ID LAB_L LAB_A LAB_B", "A1 100 0 0"), "x")
        np.testing.assert_allclose(by_lab.xyz, by_xyz.xyz, rtol=1e-9)

    def test_decimal_commas_are_read_where_they_are_plain(self) -> None:
        target = parse_reference(cgats("SAMPLE_ID LAB_L LAB_A LAB_B", "A1\t52,5\t-3,25\t0,0"), "x")
        expected = parse_reference(cgats("SAMPLE_ID LAB_L LAB_A LAB_B", "A1 52.5 -3.25 0.0"), "x")
        np.testing.assert_allclose(target.xyz, expected.xyz)

    def test_faults_are_named_with_the_way_out(self) -> None:
        lab = "SAMPLE_ID LAB_L LAB_A LAB_B"
        cases = {
            "twice": cgats(lab, "A1 50 0 0", "A1 51 0 0"),
            "where a number belongs": cgats(lab, "A1 50 grey 0"),
            "'red' where a number": cgats(
                "SAMPLE_ID XYZ_X XYZ_Y XYZ_Z " + " ".join(f"nm{n}" for n in range(400, 500, 10)), "A1 red 10 10 " + "0.5 " * 10
            ),
            "columns": cgats("SAMPLE_ID RGB_R RGB_G RGB_B", "A1 1 2 3"),
            "multiply by 100": cgats("SAMPLE_ID XYZ_X XYZ_Y XYZ_Z", "A1 0.9 1.0 0.8"),
            "darker than any target": cgats("SAMPLE_ID " + " ".join(f"nm{n}" for n in range(400, 500, 10)), "A1 " + "0.0 " * 10),
            "divide percentages": cgats("SAMPLE_ID " + " ".join(f"nm{n}" for n in range(400, 500, 10)), "A1 " + "55 " * 10),
            "no patches": cgats(lab, ""),
            "BEGIN_DATA": "hello",
            "row of 3 values": cgats(lab, "A1 50 0"),
        }
        for words, text in cases.items():
            with self.subTest(words=words), self.assertRaisesRegex(ReferenceTargetError, f"^t.txt .*{words}"):
                parse_reference(text, "t.txt")

    def test_spectra_are_preferred_to_colours(self) -> None:
        bands = range(380, 731, 10)
        fields = "SAMPLE_ID XYZ_X XYZ_Y XYZ_Z " + " ".join(f"SPECTRAL_NM{n}" for n in bands)
        target = parse_reference(cgats(fields, "A1 1 2 3 " + "1.0 " * len(bands)), "x")
        np.testing.assert_allclose(target.xyz[0], [96.42, 100, 82.49])
        self.assertIsInstance(target, ReferenceTarget)


class Captures(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name in ("a.card.json", "t.txt", "s.tif"):
            (self.folder / name).write_text("x")
        self.document = {"format": "gelvet.capture", "version": 1, "layout": "a.card.json", "reference": "t.txt", "state": "dry",
                         "shots": [{"file": "s.tif", "light": "diffuse"}]}  # fmt: skip

    def read(self, **changes: object) -> object:
        path = self.folder / "c.capture.json"
        path.write_text(json.dumps(self.document | changes))
        return read_capture(path)

    def test_paths_that_leave_the_folder_are_refused(self) -> None:
        (self.folder / "link.tif").symlink_to("/etc/hostname")
        for name in ("../s.tif", "/etc/hostname", "C:\\s.tif", "link.tif"):
            with self.subTest(name=name), self.assertRaisesRegex(CaptureError, "outside its own folder|not there"):
                self.read(shots=[{"file": name, "light": "diffuse"}])

    def test_missing_files_unknown_versions_and_words_for_numbers(self) -> None:
        cases: list[dict[str, object]] = [
            {"layout": "gone.card.json"},
            {"version": 3},
            {"shots": []},
            {"shots": [{"file": "s.tif", "light": "rake", "azimuth_deg": "left"}]},
            {"state": "damp"},
            {"format": "other"},
        ]
        for changes in cases:
            with self.subTest(changes=changes), self.assertRaises(CaptureError):
                self.read(**changes)


class MeasurementDocuments(unittest.TestCase):
    def test_what_is_measured_follows_the_shipped_schema_and_holds_only_finite_numbers(self) -> None:
        document = simulated.measured().document
        check_document(document, "measurement", "x", MeasurementFileError)
        json.dumps(document, allow_nan=False)

    def test_absent_quantities_have_a_reason_and_no_figures(self) -> None:
        for swatch in simulated.measured().document["swatches"].values():
            self.assertTrue(swatch["sparkle"]["absent"])
            self.assertIsNone(swatch["sparkle"]["density"])

    def test_every_refusal_is_unreadable_input(self) -> None:
        for error in (CaptureError, LayoutError, ReferenceTargetError, MeasurementFileError):
            self.assertTrue(issubclass(error, UnreadableInput))


if __name__ == "__main__":
    unittest.main()
