import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.card.layout import Axis, Rect, Zone
from gelvet.core.measure.grain.granulation import granulation, paper_texture
from gelvet.core.measure.quantities.colour import DilutionPath
from gelvet.core.measure.quantities.texture import Granulation
from gelvet.core.measure.swatch_zones import MeasuredZone, SwatchZones, Texture, wash_texture
from gelvet.core.measure.values import Absent, ZonePixels, tint_depth

PAPER = np.array([88.0, 91.0, 74.0])
PER_MM = 12.0


def pixels(depth: Floats) -> ZonePixels:
    xyz = (PAPER * 10 ** -(depth[..., None] * np.array([0.9, 1.0, 0.6]))).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(depth.shape, dtype=bool), pixels_per_mm=PER_MM)


def path_to(masstone_depth: float) -> DilutionPath:
    """Of which a gradient's stretch asks only how deep the masstone is."""
    path = object.__new__(DilutionPath)
    object.__setattr__(path, "masstone_depth", masstone_depth)
    return path


class GrainWithoutAWash(unittest.TestCase):
    """A card may have a gradient and no wash: grain is judged where the gradient is of middle depth (measurement.md 4)."""

    def texture(self, depth: Floats, axis: Axis = "+x") -> Texture:
        shape_mm = (depth.shape[1] / PER_MM, depth.shape[0] / PER_MM)
        zone = Zone(id="S1.gradient", kind="gradient", rect=Rect(40, 30, *shape_mm), swatch="S1", axis=axis)
        drawn = MeasuredZone(zone, pixels(depth), Absent("its colour is not asked for"), fine=pixels(depth))
        found = wash_texture(SwatchZones({"gradient": [drawn]}), PAPER, path_to(1.0))
        assert isinstance(found, Texture), found
        return found

    def test_is_judged_between_a_quarter_and_six_tenths_of_the_masstones_depth(self) -> None:
        depth = np.tile(np.linspace(1.0, 0.05, 600), (150, 1))
        ways: list[tuple[Floats, Axis]] = [(depth, "+x"), (depth[:, ::-1], "-x"), (depth.T, "+y")]
        for drawn, axis in ways:
            found = self.texture(np.ascontiguousarray(drawn), axis)
            seen = tint_depth(found.pixels.xyz, PAPER)
            self.assertGreater(float(seen.min()), 0.23)
            self.assertLess(float(seen.max()), 0.62)
            self.assertGreater(seen.size / depth.size, 0.3)

    def test_a_pale_streak_across_the_masstones_end_is_not_the_middle(self) -> None:
        depth = np.tile(np.linspace(1.0, 0.05, 600), (150, 1))
        depth[:, 30:45] = 0.4
        self.assertLess(float(tint_depth(self.texture(depth).pixels.xyz, PAPER).max()), 0.62)

    def test_the_gradients_own_slope_is_neither_grain_nor_brush_marks(self) -> None:
        rng = np.random.default_rng(2)
        depth = np.tile(np.linspace(1.0, 0.05, 600), (150, 1)) + 0.001 * rng.standard_normal((150, 600))
        found = self.texture(depth)
        paper = paper_texture([pixels(0.001 * rng.standard_normal((120, 120)))], 0.0, np.empty((0, 2)))
        grain = granulation(found.pixels, paper, 0.0, np.empty((0, 2)), found.kind)
        assert isinstance(grain, Granulation), grain
        self.assertFalse(grain.brush_marks)
        self.assertLess(grain.index, 0.15)


if __name__ == "__main__":
    unittest.main()
