"""Paints from a person's own spreadsheet, and back."""

import json
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase

from gelvet.site.library import spreadsheet
from gelvet.site.library.models import Paint
from gelvet.site.library.services import add_paint
from gelvet.site.problems import Problem

PLAIN = (
    "Maker,Paint name,Pigment codes,Form,Staining\nSaltings Colour Works,Thrift,pv19,pans,medium\nTern & Tidewrack,Sea-holly,PB28,,low\n"
)


class Reading(TestCase):
    def test_columns_are_guessed_from_their_headings(self) -> None:
        found = spreadsheet.preview(PLAIN.encode())
        self.assertEqual(
            found.mapping, {"maker": "Maker", "name": "Paint name", "pigments": "Pigment codes", "form": "Form", "staining": "Staining"}
        )
        self.assertTrue(found.good)
        self.assertEqual(found.rows[0].values["pigments"], "pv19")

    def test_every_common_dress_is_the_same_table(self) -> None:
        expected = spreadsheet.preview(PLAIN.encode()).rows
        dressed = {
            "semicolons": PLAIN.replace(",", ";").encode(), "tabs": PLAIN.replace(",", "\t").encode(), "mark": PLAIN.encode("utf-8-sig"),
            "two-byte": PLAIN.encode("utf-16"),
            "line ends": PLAIN.replace("\n", "\r\n").encode(), "empty lines": (PLAIN + ",,,,\n\n").encode(),
            "quotes": PLAIN.replace("Thrift", '"Thrift"').encode(),
        }  # fmt: skip
        for name, data in dressed.items():
            with self.subTest(name=name):
                self.assertEqual(spreadsheet.preview(data).rows, expected)

    def test_older_encodings_keep_their_letters(self) -> None:
        text = PLAIN.replace("Thrift", "Grünes Gold")
        self.assertEqual(spreadsheet.preview(text.encode("cp1252")).rows[0].values["name"], "Grünes Gold")

    def test_faults_are_told_by_row(self) -> None:
        data = PLAIN + "Saltings Colour Works,,PV19,,\nSaltings Colour Works,Thrift,PV19,,\n"
        data += "Tern & Tidewrack,Mist,rose,spray,\nA,B,PV19,tube,low,more\n"
        problems = {row.line: " ".join(row.problems) for row in spreadsheet.preview(data.encode()).rows}
        self.assertEqual((problems[2], problems[3]), ("", ""))
        self.assertIn("it has no name", problems[4])
        self.assertIn("already has a paint named Thrift", problems[5])
        self.assertRegex(problems[6], "'rose' is not a pigment code.*no paint form 'spray'")
        self.assertIn("6 cells under 5 headings", problems[7])

    def test_nothing_is_half_brought_in(self) -> None:
        mapping = spreadsheet.preview(PLAIN.encode()).mapping
        with self.assertRaisesMessage(Problem, "the first in line 4"):
            spreadsheet.bring_in((PLAIN + "Saltings Colour Works,,PV19,,\n").encode(), mapping)
        self.assertEqual(Paint.objects.count(), 0)
        self.assertEqual(spreadsheet.bring_in(PLAIN.encode(), mapping), 2)
        thrift = Paint.objects.get(name="Thrift")
        self.assertEqual((thrift.pigments, thrift.form, thrift.claims), (["PV19"], "pan", {"staining": "medium"}))

    def test_formulas_stay_text_and_go_out_harmless(self) -> None:
        data = 'maker,name,note\nSaltings Colour Works,Thrift,"=HYPERLINK(""http://x"")"\n'
        spreadsheet.bring_in(data.encode(), spreadsheet.preview(data.encode()).mapping)
        text = spreadsheet.as_csv(Paint.objects.select_related("maker"))
        self.assertIn("'=HYPERLINK", text)
        Paint.objects.all().delete()
        spreadsheet.bring_in(text.encode(), spreadsheet.preview(text.encode()).mapping)
        self.assertEqual(Paint.objects.get().note, '=HYPERLINK("http://x")')


class Refusals(SimpleTestCase):
    def test_what_is_no_table_is_said(self) -> None:
        cases = {"empty-file": b"", "no-table": b"just words\nand more", "too-large": b"a" * (spreadsheet.MAXIMUM_BYTES + 1)}
        for code, data in cases.items():
            with self.subTest(code=code), self.assertRaises(Problem) as caught:
                spreadsheet.preview(data)
            self.assertEqual(caught.exception.code, code)
        with self.assertRaisesMessage(Problem, "not text"):
            spreadsheet.preview(b"PK\x03\x04\0\0")


class Interface(TestCase):
    data = PLAIN.encode()

    def send(self, path: str, mapping: Any = None) -> Any:
        self.client.get("/")
        body: dict[str, Any] = {"file": SimpleUploadedFile("mine.csv", self.data)}
        if mapping is not None:
            body["mapping"] = mapping if isinstance(mapping, str) else json.dumps(mapping)
        return self.client.post(path, body)

    def test_preview_bring_in_and_download(self) -> None:
        seen = self.send("/api/paints/spreadsheet/preview").json()
        self.assertTrue(seen["good"])
        self.assertEqual(Paint.objects.count(), 0)
        self.assertEqual(self.send("/api/paints/spreadsheet", seen["mapping"]).json(), {"paints": 2})
        self.assertEqual(self.send("/api/paints/spreadsheet", seen["mapping"]).status_code, 422)
        self.assertIn("Thrift", self.client.get("/api/paints.csv").content.decode("utf-8-sig"))
        self.assertEqual(len(json.loads(self.client.get("/api/paints.json").content)["paints"]), 2)

    def test_columns_can_be_chosen_otherwise_and_wrong_choices_are_refused(self) -> None:
        swapped = self.send("/api/paints/spreadsheet/preview", {"maker": "Paint name", "name": "Maker"}).json()
        self.assertEqual(swapped["rows"][0]["values"], {"maker": "Thrift", "name": "Saltings Colour Works"})
        for wrong in ("{", "[]", {"maker": "Nowhere"}, {"moon": "Maker"}):
            self.assertEqual(self.send("/api/paints/spreadsheet/preview", wrong).json()["code"], "unknown-column")

    def test_the_librarys_own_json_comes_back_whole_and_other_json_is_refused(self) -> None:
        label = {"maker": "Saltings Colour Works", "name": "Thrift", "pigments": ["PV19", "PR122"], "form": "pan", "range": "Shore box",
                 "place": 2, "price": "4.5", "currency": "EUR", "sparkles": True, "owned": False, "claims": {"staining": "low"},
                 "note": "dries matt"}  # fmt: skip
        add_paint(**label)
        document = self.client.get("/api/paints.json").content
        Paint.objects.all().delete()
        self.data = document
        seen = self.send("/api/paints/spreadsheet/preview").json()
        self.assertTrue(seen["good"], seen["rows"])
        self.send("/api/paints/spreadsheet", seen["mapping"])
        again = json.loads(self.client.get("/api/paints.json").content)["paints"]
        self.assertEqual(again, json.loads(document)["paints"])
        for text, words in (
            (b"{", "is none"),
            (b"[1, 2]", "no list of paints"),
            (b'{"format": "gelvet.paints", "version": 9, "paints": []}', "newer"),
        ):
            self.data = text
            self.assertIn(words, self.send("/api/paints/spreadsheet/preview").json()["title"])

    def test_prices_with_decimal_commas_and_rows_with_faults_in_numbers(self) -> None:
        rows = spreadsheet.preview(b"maker;name;price;place\nA;B;4,50;1\nA;C;dear;first\n").rows
        self.assertEqual(rows[0].problems, ())
        self.assertEqual(len(rows[1].problems), 2)
        spreadsheet.bring_in(b"maker;name;price\nA;B;4,50\n", {"maker": "maker", "name": "name", "price": "price"})
        self.assertEqual(str(Paint.objects.get().price), "4.50")
