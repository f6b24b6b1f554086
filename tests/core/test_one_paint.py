"""Old sheets: which places are one paint's masstone, gradient and wash."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.layout import Axis, Rect
from gelvet.core.loose_sheet.found_swatches import FoundSwatch
from gelvet.core.loose_sheet.one_paint import parts_of_paints
from gelvet.core.loose_sheet.paint_depth import SheetDepth
from gelvet.core.loose_sheet.propose import propose_layout
from tests.loose import photographed, scanned

SCALE = 4.0
BLUE, RED = np.array([1.0, 0.55, 0.15]), np.array([0.2, 1.0, 0.7])
# Left, width and density at both ends of places that stand in one row, 20 mm broad.
ROW = {"deep": (10.0, 20.0, 1.0, 1.0), "drawn": (31.0, 40.0, 0.95, 0.2), "pale": (73.0, 20.0, 0.15, 0.15)}


def sheet_with(row: dict[str, tuple[float, float, float, float]], colours: dict[str, Floats]) -> tuple[SheetDepth, dict[str, FoundSwatch]]:
    density = np.zeros((int(60 * SCALE), int(130 * SCALE), 3), dtype=np.float32)
    places = {}
    for name, (left, width, start, stop) in row.items():
        rect = Rect(left, 20.0, width, 20.0)
        columns = slice(round(left * SCALE), round((left + width) * SCALE))
        ramp = np.linspace(start, stop, columns.stop - columns.start)
        density[round(20 * SCALE) : round(40 * SCALE), columns] = ramp[:, None] * colours[name]
        axis: Axis | None = None if start == stop else "+x" if start > stop else "-x"
        places[name] = FoundSwatch(rect, (start + stop) / 2, axis)
    return SheetDepth(density, np.ones(density.shape[:2], dtype=bool), SCALE, 0.01), places


def kinds(sheet: SheetDepth, places: dict[str, FoundSwatch]) -> list[list[tuple[str, str]]]:
    names = {place: name for name, place in places.items()}
    in_order = sorted(places.values(), key=lambda place: (place.rect.y, place.rect.x))
    return [[(part.kind, names[part.place]) for part in parts] for parts in parts_of_paints(in_order, sheet)]


ONE_PAINT = [[("masstone", "deep"), ("gradient", "drawn"), ("wash", "pale")]]
ALL_BLUE = dict.fromkeys(ROW, BLUE)


class OnePaint(unittest.TestCase):
    def test_a_gradient_takes_the_places_at_its_ends_whichever_way_it_lies(self) -> None:
        sheet, places = sheet_with(ROW, ALL_BLUE)
        self.assertEqual(kinds(sheet, places), ONE_PAINT)
        mirrored = {name: (120 - left - width, width, stop, start) for name, (left, width, start, stop) in ROW.items()}
        self.assertEqual(kinds(*sheet_with(mirrored, ALL_BLUE)), ONE_PAINT)
        turned = replace(sheet, density=np.ascontiguousarray(sheet.density.swapaxes(0, 1)), shown=sheet.shown.T)
        upright = {
            name: FoundSwatch(Rect(p.rect.y, p.rect.x, p.rect.height, p.rect.width), p.depth, "+y" if p.axis else None)
            for name, p in places.items()
        }
        self.assertEqual(kinds(turned, upright), ONE_PAINT)

    def test_other_colours_depths_and_rows_stay_apart(self) -> None:
        alone = {"deep": [("masstone", "deep")], "pale": [("masstone", "pale")]}
        for name, by_itself in alone.items():
            with self.subTest(other_colour=name):
                found = kinds(*sheet_with(ROW, ALL_BLUE | {name: RED}))
                self.assertIn(by_itself, found)
                self.assertEqual(len(found), 2)
        with self.subTest("a wash that is deeper than its gradient"):
            self.assertIn(alone["pale"], kinds(*sheet_with(ROW | {"pale": (73.0, 20.0, 0.9, 0.9)}, ALL_BLUE)))
        with self.subTest("far off"):
            self.assertIn(alone["pale"], kinds(*sheet_with(ROW | {"pale": (105.0, 20.0, 0.15, 0.15)}, ALL_BLUE)))
        with self.subTest("another row"):
            sheet, places = sheet_with(ROW, ALL_BLUE)
            low = places["pale"].rect
            lower = places | {"pale": replace(places["pale"], rect=Rect(low.x, low.y + 15, low.width, low.height))}
            self.assertIn(alone["pale"], kinds(sheet, lower))

    def test_strokes_on_a_scanned_and_a_photographed_sheet_are_proposed_whole(self) -> None:
        """Of one in the photograph the masstone runs into the gradient, and is a part of it."""
        for (picture, _), whole in ((scanned(), 3), (photographed(), 2)):
            with self.subTest(source=picture.source):
                zones = propose_layout(picture, "OLD-1").zones
                strokes = [[z.kind for z in zones if z.swatch == drawn.swatch] for drawn in zones if drawn.kind == "gradient"]
                self.assertEqual([kinds[-2:] for kinds in strokes], [["gradient", "wash"]] * 3)
                self.assertEqual(strokes.count(["masstone", "gradient", "wash"]), whole)
