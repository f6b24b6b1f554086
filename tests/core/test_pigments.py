"""The pigment list: complete in itself, forgiving in spelling, careful with metals."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from gelvet.core.pigments.pigment_list import cautions, find, pigments, tidy, well_formed
from gelvet.core.simulate.spectra import PIGMENTS


class PigmentList(unittest.TestCase):
    def test_every_entry_is_whole_and_well_formed(self) -> None:
        self.assertGreaterEqual(len(pigments()), 75)
        for code, pigment in pigments().items():
            with self.subTest(code=code):
                self.assertTrue(well_formed(code))
                self.assertTrue(pigment.name and pigment.family and pigment.hue and pigment.character)
                self.assertNotEqual("transparent" in pigment.character, "opaque" in pigment.character)
                self.assertFalse({"staining", "lifting"} <= set(pigment.character))

    def test_the_hue_family_agrees_with_the_codes_letter(self) -> None:
        letters = {
            "W": "white",
            "Y": "yellow",
            "O": "orange",
            "R": "red",
            "V": "violet",
            "B": "blue",
            "G": "green",
            "Br": "brown",
            "Bk": "black",
        }
        for code, pigment in pigments().items():
            self.assertEqual(pigment.hue, letters[code[1:].rstrip("0123456789")], code)

    def test_all_that_the_simulator_paints_with_is_listed(self) -> None:
        self.assertLessEqual(set(PIGMENTS), set(pigments()))

    def test_codes_are_read_as_people_type_them(self) -> None:
        for typed, code in {
            "pb 29": "PB29",
            "PBK9": "PBk9",
            "pbr7": "PBr7",
            " PV19 ": "PV19",
            "p.r.101": "PR101",
            "pb15:3": "PB15:3",
            "PB029": "PB29",
        }.items():
            self.assertEqual(tidy(typed), code)
        for words in ("ultramarine", "PX1", "29", ""):
            self.assertFalse(well_formed(tidy(words)), words)

    @given(st.text(max_size=12))
    def test_tidying_twice_is_tidying_once(self, text: str) -> None:
        self.assertEqual(tidy(tidy(text)), tidy(text))

    def test_forms_are_found_under_their_number(self) -> None:
        found = find("PB15:3")
        assert found is not None
        self.assertEqual(found.code, "PB15")
        self.assertIsNone(find("PB999"))

    def test_metals_are_named_once_and_their_absence_says_nothing(self) -> None:
        said = cautions(["PB28", "PB35", "PG18", "PV19"])
        self.assertIn("cobalt and chromium", said[0])
        self.assertEqual(said[0].count("cobalt"), 1)
        self.assertIn("safety data sheet", said[1])
        self.assertEqual(cautions(["PB29", "PV19", "PX77"]), [])


if __name__ == "__main__":
    unittest.main()
