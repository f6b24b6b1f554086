"""Every figure says how sure it is, and as sure as its colours make it."""

import unittest
from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lab_to_lch, lab_to_xyz
from gelvet.core.measure.dilution.hue_shift import hue_shift
from gelvet.core.measure.quantities.colour import DilutionPath, HueShift
from gelvet.core.measure.uncertainty import chroma_u, difference_u, from_variance_u, hue_u_deg, light, light_u, ratio_u, turn_u_deg
from gelvet.core.measure.values import Figure
from tests.lamps import measured_with
from tests.wet_card import measured
from tests.zones import colour

# What is counted, named, or a part of how a figure was made.
_PLAIN = {
    "layers", "stops_deepening_at", "backruns", "shots", "residue_component", "mixed", "blur_mm", "gain", "shaded_index", "anisotropy_deg",
    "depth", "gradient_ends_at", "distance_mm", "frequency", "hours",
}  # fmt: skip
# Of one uncertainty that stands beside them under another name.
_TOGETHER = {
    "masstone_L": "u", "wash_L": "u", "span_L": "u", "delta_h": "u", "index": "u", "grain_mm": "grain_u", "veil": "u", "removed": "u",
    "residue_share": "residue_share_u", "residue_share_before": "residue_share_u", "slope": "u", "delta_L": "u", "delta_C": "u",
    "delta_e00": "u", "unevenness": "u", "reach_mm": "u", "area_mm2": "area_u", "rim": "u", "density": "u", "chroma": "u", "delta_e": "u",
    "fraction": "u", "delta_e_ab": "u", "tooth_correlation": "tooth_u",
}  # fmt: skip
_CURVES = {"path", "profile", "spectrum", "xyz"}


def _unsure_of(found: Any, at: str = "") -> list[str]:
    """Where numbers stand without an uncertainty."""
    if isinstance(found, list):
        return [miss for part in found for miss in _unsure_of(part, at)]
    if not isinstance(found, dict):
        return []
    missing = []
    for key, value in found.items():
        if key in _CURVES or key in _PLAIN or key == "u" or key.endswith(("_u", "u_lab")):
            continue
        if key.endswith("lab") and value is not None:
            missing += [] if found.get("u") is not None or key == "paper_lab" else [f"{at}.{key}"]
        elif isinstance(value, float) and not isinstance(value, bool):
            beside = found.get(f"{key}_u", found.get(_TOGETHER.get(key, ""), None))
            missing += [] if beside is not None else [f"{at}.{key}"]
        else:
            missing += _unsure_of(value, f"{at}.{key}")
    return missing


class Figures(unittest.TestCase):
    def test_each_that_was_measured_has_an_uncertainty(self) -> None:
        for card in (measured(), measured_with(3)):
            for name, swatch in card.document["swatches"].items():
                with self.subTest(card=card.document["card_id"], swatch=name):
                    self.assertEqual(_unsure_of(swatch, name), [])

    def test_a_figure_without_one_would_be_seen(self) -> None:
        self.assertEqual(_unsure_of({"hiding": {"veil": 0.1, "u": 0.01, "contrast_ratio": 0.2}}, "S1"), ["S1.hiding.contrast_ratio"])


class Carried(unittest.TestCase):
    """First-order propagation against many draws."""

    def setUp(self) -> None:
        self.zone = colour(np.array([22.0, 18.0, 30.0]))
        self.draws = self.zone.lab + np.random.default_rng(1).standard_normal((4000, 3)) * self.zone.u_lab

    def test_hue_chroma_and_light(self) -> None:
        _, chroma, hue = lab_to_lch(self.draws).T
        self.assertAlmostEqual(hue_u_deg(self.zone.lab, self.zone.u_lab) / float(hue.std()), 1, delta=0.06)
        self.assertAlmostEqual(chroma_u(self.zone.lab, self.zone.u_lab) / float(chroma.std()), 1, delta=0.06)
        for channel, seen in enumerate(lab_to_xyz(self.draws).T):
            with self.subTest(channel="XYZ"[channel]):
                self.assertAlmostEqual(light_u(self.zone, channel) * float(self.zone.xyz[channel]) / float(seen.std()), 1, delta=0.06)
        self.assertAlmostEqual(light(self.zone, 1), 0.18)

    def test_what_two_figures_share_cancels_in_their_difference(self) -> None:
        self.assertEqual(difference_u(0.4, 0.4, 1.0), 0.0)
        self.assertAlmostEqual(difference_u(0.3, 0.4, 0.0), 0.5)

    def test_a_figure_over_itself_is_known(self) -> None:
        self.assertEqual(ratio_u(Figure(2.0, 0.3), Figure(2.0, 0.3)), 0.0)
        self.assertAlmostEqual(ratio_u(Figure(2.0, 0.2), Figure(4.0, 0.0)), 0.05)

    def test_a_standard_deviation_of_few_places_is_hardly_known(self) -> None:
        seen = np.random.default_rng(2).normal(0, 3, (4000, 20)).std(axis=1)
        self.assertAlmostEqual(from_variance_u(3.0, 20) / float(seen.std()), 1, delta=0.1)

    def test_the_greyer_the_less_a_turn_of_hue_is_known(self) -> None:
        self.assertGreater(turn_u_deg(0.5, 8.0), 3 * turn_u_deg(0.5, 40.0))


class Travel(unittest.TestCase):
    def shift(self, hues: Floats) -> HueShift:
        depth = np.linspace(1.0, 0.15, len(hues))
        turn = np.radians(hues)
        labs = np.stack([np.linspace(40, 85, len(hues)), 30 * np.cos(turn), 30 * np.sin(turn)], axis=1)
        xyz = lab_to_xyz(labs)
        path = DilutionPath(
            depth=depth, xyz=xyz, masstone=colour(xyz[0]), masstone_depth=1.0, half_xyz=xyz[len(xyz) // 2], wash_xyz=xyz[-1],
            gradient_ends_at=None, by_place=False,
        )  # fmt: skip
        found = hue_shift(path, np.full(3, 0.5), np.full(3, 0.5))
        assert isinstance(found, HueShift)
        return found

    def test_to_and_fro_it_is_as_sure_as_the_shift(self) -> None:
        """Against errors of the hue that wander by a walk at random from masstone to wash."""
        hues = 20 + 40 * np.sin(np.linspace(0, np.pi, 30))
        found = self.shift(hues)
        self.assertAlmostEqual(found.delta_h, 0, delta=0.5)
        self.assertAlmostEqual(found.travel, 80, delta=1)
        walks = np.random.default_rng(3).normal(0, found.u / np.sqrt(29), (2000, 30)).cumsum(axis=1)
        travels = np.abs(np.diff(hues + 0.2 * walks, axis=1)).sum(axis=1)
        self.assertAlmostEqual(0.2 * found.travel_u / float(travels.std()), 1, delta=0.1)
