"""Tone curves of devices, told by patches of known colour alone."""

import unittest
from collections.abc import Callable
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.curve_search import least_cost
from gelvet.core.capture.colour.patch_fit import fit_tone
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import curve_of, power_curve, stiffness
from gelvet.core.colour.spaces import XYZ_D50_FROM_SRGB, encode_srgb

# What white is stored as, of full scale, in linear light.
EXPOSED = 0.88


def contrasty(light: Floats) -> Floats:
    """A display curve bent into toe and shoulder."""
    code = encode_srgb(light)
    return np.asarray(0.4 * code + 0.6 * code**2 * (3 - 2 * code))


def like_film(light: Floats) -> Floats:
    """A long shoulder, as pictures made for looking at have."""

    def curve(x: Floats) -> Floats:
        return np.asarray(x * (6.2 * x + 0.5) / (x * (6.2 * x + 1.7) + 0.06))

    return curve(1.6 * light) / curve(np.array(1.6))


def logarithmic(light: Floats) -> Floats:
    return np.asarray(np.log1p(60 * light) / np.log(61))


CURVES: dict[str, Callable[[Floats], Floats]] = {
    "display": encode_srgb,
    "contrasty": contrasty,
    "like film": like_film,
    "logarithmic": logarithmic,
}


def readings(curve: Callable[[Floats], Floats], coloured: int = 30) -> PatchReadings:
    """Eight greys and some colours of a device that sees as displays show."""
    rng = np.random.default_rng(3)
    greys = np.repeat(0.9 * 0.63 ** np.arange(8)[:, None], 3, axis=1)
    light = np.concatenate([greys, np.exp(rng.uniform(np.log(0.03), np.log(0.9), (coloured, 3)))])
    return PatchReadings(code=curve(EXPOSED * light), xyz=light @ XYZ_D50_FROM_SRGB.T, light=np.ones_like(light))


class StartingCurve(unittest.TestCase):
    def test_the_starting_curve_is_near_its_power_and_rises(self) -> None:
        code = np.linspace(0, 1, 50)
        for gamma in (1.0, 1.8, 2.2):
            light = power_curve(gamma).linearise(code)
            np.testing.assert_allclose(light, code**gamma, atol=0.02)
            self.assertTrue(np.all(np.diff(light) > 0))
            self.assertTrue((np.diff(power_curve(gamma).lookup(256), axis=0) > 0).all())


class ShoulderOfACurve(unittest.TestCase):
    def test_light_comes_back_in_proportion_up_to_white_paper(self) -> None:
        """An exponent that is off by a tenth somewhere makes washes, and all grain in them, a tenth too faint."""
        light = np.geomspace(0.05, 0.85, 200)
        for name, curve in CURVES.items():
            with self.subTest(curve=name):
                back = fit_tone(readings(curve)).linearise(curve(EXPOSED * light))
                exponent = np.gradient(np.log(back), np.log(light))
                np.testing.assert_allclose(exponent[5:-5], 1, atol=0.04)

    def test_a_curve_rises_and_is_what_its_parameters_say(self) -> None:
        parameters = np.append(power_curve(2.2).log_slopes, [0.001, 0.7])
        curve = curve_of(parameters)
        np.testing.assert_array_equal(curve.parameters, parameters)
        self.assertTrue((np.diff(curve.table()) > 0).all())
        without = curve_of(np.append(parameters[:-1], 0.0))
        slopes = np.diff(curve.table()) / np.diff(without.table())
        # The same shape below, steeper by e^0.7 at full scale.
        self.assertAlmostEqual(float(np.log(slopes[-1] / slopes[0])), 0.7, delta=0.01)
        np.testing.assert_allclose(slopes[:500] / slopes[0], 1, atol=0.025)


def with_levels(light: Floats) -> Floats:
    """Each channel's black and gamma set by itself, as automatic levels do."""
    return np.asarray(encode_srgb(light) ** [1.0, 1 / 1.04, 1 / 1.1] * [0.95, 0.96, 0.88] + [0.03, 0.04, 0.09])


class TintsOfAChannel(unittest.TestCase):
    def test_channels_with_levels_of_their_own_come_back_in_proportion(self) -> None:
        light = np.repeat(np.geomspace(0.05, 0.85, 200)[:, None], 3, axis=1)
        for coloured in (30, 10):
            with self.subTest(coloured=coloured):
                found = fit_tone(readings(with_levels, coloured))
                self.assertIsNotNone(found.tints)
                back = np.log(found.linearise(with_levels(EXPOSED * light)))
                # Greys stay grey from white to dark: red and blue keep their ratio to green.
                for channel in (0, 2):
                    ratio = back[:, channel] - back[:, 1]
                    self.assertLess(float(np.ptp(ratio)), 0.03)

    def test_a_device_whose_channels_are_alike_is_given_none(self) -> None:
        for name, curve in CURVES.items():
            with self.subTest(curve=name):
                self.assertIsNone(fit_tone(readings(curve)).tints)

    def test_tints_that_a_fit_strays_to_still_give_finite_light(self) -> None:
        code = np.repeat(np.linspace(0, 1, 50)[:, None], 3, axis=1)
        for tints in ([-5.0, -7.0, 4.0, 90.0], [3.0, -1.0, -0.2, -2.0]):
            with self.subTest(tints=tints):
                light = curve_of(np.concatenate([power_curve(2.2).parameters, tints])).linearise(code)
                self.assertTrue(np.isfinite(light).all())


class ManyCurvesAtOnce(unittest.TestCase):
    def test_curves_that_are_tried_together_give_what_each_gives_alone(self) -> None:
        rng = np.random.default_rng(8)
        data = readings(with_levels)
        dotted = replace(data, around=rng.normal(0, 0.01, (len(data.code), 7, 3)))
        for width in (10, 14):
            tried = power_curve(1.8).tinted.parameters[:width] + rng.normal(0, 0.05, (5, width))
            for given in (data, dotted):
                with self.subTest(width=width, dotted=given.around is not None):
                    together = light_of(given, curve_of(tried))
                    np.testing.assert_allclose(together, [light_of(given, curve_of(one)) for one in tried], rtol=1e-12)
                    np.testing.assert_array_equal(curve_of(tried).parameters, tried)
            np.testing.assert_array_equal(stiffness(tried, 1.2), [stiffness(one, 1.2) for one in tried])

    def test_the_slopes_of_a_search_are_those_of_its_misses(self) -> None:
        """A curve that is known but for its parameters is found again, to what differences can tell."""
        known = power_curve(2.2).parameters + np.linspace(-0.2, 0.3, 10) * ([1.0] * 8 + [0.02, 0.0])

        def misses(parameters: Floats) -> Floats:
            return np.asarray((parameters - known) * np.arange(1, 11) + 0.1 * (parameters - known) ** 2)

        found, cost = least_cost(misses, power_curve(1.0), f_scale=100.0, most_steps=60)
        np.testing.assert_allclose(found.parameters, known, atol=1e-6)
        self.assertLess(cost, 1e-9)
