"""What the usual kinds of pigment absorb, drawn broadly: a part of the prior over paints, not data.

The kinds and where their edges and bands lie are those of artists' pigments in general, as W. Herbst and K. Hunger (Industrial Organic
Pigments, 3rd edition, 2004) and G. Buxbaum and G. Pfaff (Industrial Inorganic Pigments, 3rd edition, 2005) describe them; widths and
heights are given room on all sides.
"""

from collections.abc import Callable

import numpy as np

from gelvet.core.arrays import Floats


class _Draw:
    """Random curves (count, n), one for each pigment."""

    def __init__(self, rng: np.random.Generator, nm: Floats, count: int) -> None:
        self.rng, self.nm, self.count = rng, nm, count

    def _uniform(self, low: float, high: float) -> Floats:
        return self.rng.uniform(low, high, (self.count, 1))

    def _by_ratio(self, low: float, high: float) -> Floats:
        return np.exp(self._uniform(np.log(low), np.log(high)))

    def _some(self, share: float, curve: Floats) -> Floats:
        """The curve for a share of the pigments, nothing for the rest."""
        return np.where(self.rng.random((self.count, 1)) < share, curve, 0.0)

    def _below(self, edge: Floats, width: Floats) -> Floats:
        """All that is shorter than an edge."""
        from scipy.special import expit

        return np.asarray(expit((edge - self.nm) / width))

    def _band(self, centre: Floats, width: Floats) -> Floats:
        return np.asarray(np.exp(-(((self.nm - centre) / width) ** 2)))

    def _violet_end(self) -> Floats:
        return self._uniform(0, 0.3) * self._below(self._uniform(400, 435), self._uniform(6, 20))

    def yellow(self) -> Floats:
        """And orange."""
        return self._below(self._uniform(470, 560), self._by_ratio(5, 20))

    def red(self) -> Floats:
        """Some let a little blue through."""
        blue = self._uniform(0, 0.6) * self._band(self._uniform(415, 480), self._uniform(25, 50))
        return self._below(self._uniform(562, 628), self._by_ratio(5, 16)) * (1 - blue)

    def rose(self) -> Floats:
        """Two narrow bands, as quinacridones have, and a shoulder toward the blue."""
        centre = self._uniform(520, 550)
        longer = self._uniform(0.3, 1.1) * self._band(centre + self._uniform(28, 40), self._uniform(14, 26))
        shoulder = self._uniform(0.1, 0.6) * self._band(centre - self._uniform(30, 45), self._uniform(22, 45))
        return self._band(centre, self._uniform(18, 34)) + longer + shoulder + self._violet_end()

    def violet(self) -> Floats:
        centre = self._uniform(530, 600)
        longer = self._some(0.5, self._uniform(0.3, 1) * self._band(centre + self._uniform(40, 75), self._uniform(20, 40)))
        shorter = self._some(0.5, self._uniform(0.05, 0.3) * self._band(centre - self._uniform(50, 80), self._uniform(25, 45)))
        return self._band(centre, self._uniform(32, 70)) + longer + shorter + 0.5 * self._violet_end()

    def blue(self) -> Floats:
        """One broad band, of ultramarine and cobalt; some go on into the deep red."""
        centre = self._uniform(575, 640)
        deep_red = self._some(0.6, self._uniform(0.05, 0.45) * (1 - self._below(centre + self._uniform(20, 60), self._uniform(10, 25))))
        return self._band(centre, self._uniform(42, 90)) + deep_red + 0.5 * self._violet_end()

    def plateau(self) -> Floats:
        """From orange to the end of what is seen, with a dip between two bands, as phthalocyanines have."""
        start = self._uniform(555, 620)
        dip = self._uniform(0, 0.4) * self._band(start + self._uniform(45, 75), self._uniform(18, 35))
        whole = (1 - self._below(start, self._uniform(8, 28))) * self._below(self._uniform(690, 780), self._uniform(10, 30))
        return whole * (1 - dip) + self._violet_end()

    def green(self) -> Floats:
        """Red and violet at once."""
        red = np.where(self._halves(), self._band(self._uniform(600, 690), self._uniform(45, 95)), self.plateau())
        band, edge = self._band(self._uniform(410, 460), self._uniform(30, 60)), self._below(self._uniform(430, 490), self._uniform(6, 20))
        return red + self._uniform(0.3, 1.2) * np.where(self._halves(), band, edge)

    def earth(self) -> Floats:
        """An edge that leans, over some grey."""
        iron = self._some(0.4, self._uniform(0.05, 0.3) * self._band(self._uniform(620, 690), self._uniform(35, 60)))
        return self._below(self._uniform(520, 605), self._by_ratio(16, 50)) + self._uniform(0.03, 0.5) + iron

    def dark(self) -> Floats:
        """Blacks and greys."""
        return 1 + self._uniform(-0.4, 0.4) * (self.nm - 560) / 180

    def _halves(self) -> Floats:
        return np.asarray(self.rng.random((self.count, 1)) < 0.5)


# How many of all pigments are of each kind.
_KINDS: tuple[tuple[float, Callable[[_Draw], Floats]], ...] = (
    (0.14, _Draw.yellow),
    (0.13, _Draw.red),
    (0.11, _Draw.rose),
    (0.10, _Draw.violet),
    (0.13, _Draw.blue),
    (0.13, _Draw.plateau),
    (0.12, _Draw.green),
    (0.09, _Draw.earth),
    (0.05, _Draw.dark),
)


def absorption_of_kinds(rng: np.random.Generator, nm: Floats, count: int) -> Floats:
    """Absorption (count, n) of unit layers of single pigments at wavelengths `nm` (1, n), about 1 where it is highest."""
    kind = rng.choice(len(_KINDS), size=count, p=[share for share, _ in _KINDS])
    absorption = np.empty((count, nm.shape[-1]))
    for number, (_, draw) in enumerate(_KINDS):
        chosen = kind == number
        absorption[chosen] = draw(_Draw(rng, nm, int(chosen.sum())))
    return absorption
