"""At which figures a gate passes, warns and fails."""

import unittest

from gelvet.core.capture.judging.gates import (
    clipping_gate,
    compression_gate,
    exposure_gate,
    fall_off_gate,
    flatness_gate,
    focus_gate,
    noise_gate,
    resolution_gate,
    tilt_gate,
)  # fmt: skip


class GateLimits(unittest.TestCase):
    def test_each_passes_warns_and_fails_in_turn_with_advice_only_where_needed(self) -> None:
        rising = {
            clipping_gate: ((0, ()), (0.005, ()), (0.5, ())), fall_off_gate: ((0.2,), (0.4,), (0.7,)), tilt_gate: ((1,), (18,), (40,)),
            noise_gate: ((0.5,), (3,), (20,)), focus_gate: ((0.03,), (0.1,), (0.3,)), resolution_gate: ((11.8,), (8,), (3,)),
            flatness_gate: ((0.01,), (0.2,), (0.8,)), exposure_gate: ((0.8,), (0.4,), (0.2,)), compression_gate: ((0.4,), (3,), (6,)),
        }  # fmt: skip
        for gate, cases in rising.items():
            found = [gate(*values) for values in cases]  # type: ignore[operator]
            with self.subTest(gate=found[0].id):
                self.assertEqual([g.state for g in found], ["pass", "warn", "fail"])
                self.assertEqual([bool(g.advice) for g in found], [False, True, True])

    def test_an_unknown_focus_is_a_warning(self) -> None:
        self.assertEqual(focus_gate(None).state, "warn")
