"""What devices look like: a large, fixed sample of plausible channel sensitivities, light times filter times sensor.

It is a prior, not data: lamps (daylight and glow lamps, white LEDs, fluorescent tubes), dye filters with their leaks,
infrared stops and scanners with a narrow lamp for each channel are drawn broadly, as is how a device mixes its channels: a little, or
by the matrix that brings them nearest to a display's primaries, as most pictures are made for.
"""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import SRGB_FROM_XYZ_D50
from gelvet.core.colour.spectra import observer_d50

DEVICES = 3000
_NARROW_LAMPS, _MIXING, _FOR_DISPLAYS = 0.3, 0.35, 0.35
_MOST_MIXED = 0.3
_TUBE_LINES_NM = (405, 436, 488, 545, 587, 611)
_STRONG_LINES_NM = (436, 545, 611)


@lru_cache(maxsize=4)
def device_prior(wavelengths_nm: tuple[float, ...]) -> Floats:
    """(3000, 3, n) sensitivities of R, G, B at `wavelengths_nm`, each of sum 1; the same at each call."""
    return _Draw(np.array(wavelengths_nm)).devices()


class _Draw:
    """Random curves (3000, n) over the wavelengths `nm` (n,)."""

    def __init__(self, nm: Floats) -> None:
        self.nm = nm[None]
        self.rng = np.random.default_rng(5)

    def devices(self) -> Floats:
        light = self._light()
        stop = _step(self._uniform(640, 740) - self.nm, self._uniform(5, 18))
        filtered = np.stack([light * stop * f for f in self._filters()], axis=1)
        lamps = np.stack([self._narrow_lamp(*ends) for ends in ((608, 648), (508, 548), (443, 478))], axis=1)
        channels = np.where(self.rng.random((DEVICES, 1, 1)) < _NARROW_LAMPS, lamps, filtered)
        return self._mixed(channels / channels.sum(axis=2, keepdims=True))

    def _uniform(self, low: float, high: float) -> Floats:
        return self.rng.uniform(low, high, (DEVICES, 1))

    def _mostly_small(self, most: float) -> Floats:
        return self._uniform(0, 1) ** 2 * most

    def _bump(
        self, centre: tuple[float, float], left: tuple[float, float], right: tuple[float, float], bluntness: float | Floats = 2.0
    ) -> Floats:
        """A hill that may lean: its slopes have widths of their own."""
        off = self.nm - self._uniform(*centre)
        width = np.where(off < 0, self._uniform(*left), self._uniform(*right))
        return np.asarray(np.exp(-(np.abs(off / width) ** bluntness)))

    def _light(self) -> Floats:
        across = (self.nm - 560) / 170
        ripple = 1 + self._uniform(0, 0.15) * np.sin((self.nm - 560) / self._uniform(15, 45) + self._uniform(0, 2 * np.pi))
        glow = np.exp(self._uniform(-1, 1) * across - self._uniform(0, 0.6) * across**2) * ripple
        led = self._uniform(0.3, 1.6) * self._bump((443, 467), (10, 20), (10, 22)) + self._bump((540, 600), (50, 80), (60, 100))
        led = led + self._uniform(0, 0.4) * self._bump((610, 650), (12, 40), (12, 40))
        tube = self._uniform(0.1, 0.6) * self._bump((560, 600), (50, 90), (50, 90))
        for line in _TUBE_LINES_NM:
            tube = tube + self._uniform(0, 1.6 if line in _STRONG_LINES_NM else 0.5) * self._bump((line, line), (5, 11), (5, 11))
        sensor = np.exp(self._uniform(-0.4, 0.4) * across)
        return np.asarray(np.choose(self.rng.choice(3, size=(DEVICES, 1), p=(0.4, 0.45, 0.15)), [glow, led, tube]) * sensor)

    def _filters(self) -> list[Floats]:
        bluntness = self._uniform(1.8, 3)
        long_pass = _step(self.nm - self._uniform(572, 608), self._uniform(4, 14))
        hill = self._bump((583, 622), (20, 58), (35, 100), bluntness)
        red = np.where(self.rng.random((DEVICES, 1)) < 0.65, hill, long_pass)
        green = self._bump((518, 552), (28, 68), (28, 68), bluntness)
        blue = self._bump((436, 478), (22, 70), (22, 65), bluntness)
        return [
            f + self._mostly_small(0.15) * self._bump((400, 680), (20, 50), (20, 50)) + self._mostly_small(0.06) for f in (red, green, blue)
        ]

    def _narrow_lamp(self, low: float, high: float) -> Floats:
        return self._bump((low, high), (9, 30), (9, 30), self._uniform(1.8, 2.4)) + self._mostly_small(0.03)

    def _mixed(self, channels: Floats) -> Floats:
        """What a device makes of its `channels` (3000, 3, n) before it stores them."""
        kind = self.rng.random((DEVICES, 1, 1))
        little, displayed = self._a_little_mixed(channels), self._for_displays(channels)
        return np.where(kind < _MIXING, little, np.where(kind < _MIXING + _FOR_DISPLAYS, displayed, channels))

    def _a_little_mixed(self, channels: Floats) -> Floats:
        """Each channel less some of the two others."""
        amount = self._uniform(0, _MOST_MIXED)
        share = self.rng.uniform(0.2, 0.8, (DEVICES, 3, 1))
        mixed = [
            (1 + amount) * channels[:, c] - amount * (share[:, c] * channels[:, (c + 1) % 3] + (1 - share[:, c]) * channels[:, (c + 2) % 3])
            for c in range(3)
        ]
        return np.stack(mixed, axis=1)

    def _for_displays(self, channels: Floats) -> Floats:
        """A part of the way, or all of it, to what a display's primaries need: their curves, as near as a matrix brings the channels."""
        wanted = SRGB_FROM_XYZ_D50 @ observer_d50(self.nm[0]).T
        across = channels.swapaxes(1, 2)
        matrix = np.linalg.solve(channels @ across, channels @ wanted.T)
        displayed = (across @ matrix).swapaxes(1, 2)
        displayed /= displayed.sum(axis=2, keepdims=True)
        way = self._uniform(0.2, 1.1)[:, None]
        return np.asarray((1 - way) * channels + way * displayed)


def _step(above: Floats, width: Floats) -> Floats:
    from scipy.special import expit

    return np.asarray(expit(above / width))
