"""Every quantity of a painted card against its truth."""

import unittest

import numpy as np

from gelvet.core.colour.difference import ciede2000
from tests import simulated


class AgainstTruth(unittest.TestCase):
    def test_every_quantity_of_every_swatch(self) -> None:
        truth, found = simulated.bench().truth["swatches"], simulated.measured().document["swatches"]
        for name, true in truth.items():
            with self.subTest(swatch=name):
                swatch = found[name]
                self.assertLess(float(ciede2000(np.array(swatch["masstone"]["lab"]), np.array(true["masstone"]["lab"]))), 4)
                self.assertLess(float(ciede2000(np.array(swatch["wash"]["lab"]), np.array(true["wash"]["lab"]))), 2)
                self.assertAlmostEqual(swatch["value_range"]["span_L"], true["value_range"]["span_L"], delta=3)
                self.assertAlmostEqual(swatch["hiding"]["veil"], true["hiding"]["veil"], delta=0.015)
                lifted = swatch["lifting"]
                self.assertAlmostEqual(lifted["removed"], true["lifting"]["removed"], delta=0.03)
                self.assertLess(abs(lifted["removed"] - true["lifting"]["removed"]), 2 * lifted["u"])

    def test_hue_shift_where_there_is_hue_and_absent_on_soot(self) -> None:
        truth, found = simulated.bench().truth["swatches"], simulated.measured().document["swatches"]
        for name in ("S1", "S2"):
            self.assertAlmostEqual(found[name]["hue_shift"]["delta_h"], truth[name]["hue_shift"]["delta_h"], delta=8)
        self.assertEqual(found["S3"]["hue_shift"]["absent"], "too grey")
        self.assertIsNone(found["S3"]["dilution_shift"])
        self.assertIsNotNone(found["S1"]["dilution_shift"])

    def test_grain_of_the_granulating_paint(self) -> None:
        truth, found = (
            simulated.bench().truth["swatches"]["S1"]["granulation"],
            simulated.measured().document["swatches"]["S1"]["granulation"],
        )
        self.assertAlmostEqual(found["index"] / truth["index"], 1, delta=0.12)
        self.assertAlmostEqual(found["grain_mm"] / truth["grain_mm"], 1, delta=0.12)
        self.assertGreater(found["index"], 3 * simulated.measured().document["swatches"]["S2"]["granulation"]["index"])
