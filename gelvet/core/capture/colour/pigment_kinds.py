"""What the usual kinds of pigment absorb, drawn broadly: a part of the prior over paints, not data.

The kinds and where their edges and bands lie are those of artists' pigments in general, as W. Herbst and K. Hunger (Industrial Organic
Pigments, 3rd edition, 2004) and G. Buxbaum and G. Pfaff (Industrial Inorganic Pigments, 3rd edition, 2005) describe them; widths and
heights are given room on all sides.
"""

import numpy as np

from gelvet.core.arrays import Floats

# Yellows and oranges, reds, rose and magenta, violets, blues, phthalocyanine blues, greens, earths, blacks and greys.
_SHARES = (0.14, 0.13, 0.11, 0.10, 0.13, 0.13, 0.12, 0.09, 0.05)


def absorption_of_kinds(rng: np.random.Generator, nm: Floats, count: int) -> Floats:
    """Absorption (count, n) of unit layers of single pigments at wavelengths `nm` (1, n), about 1 where it is highest."""
    kind = rng.choice(len(_SHARES), size=count, p=_SHARES)
    absorption = np.empty((count, nm.shape[-1]))
    for number in range(len(_SHARES)):
        chosen = kind == number
        absorption[chosen] = _Draw(rng, nm, int(chosen.sum())).of_kind(number)
    return absorption


class _Draw:
    """Random curves (count, n), one for each pigment."""

    def __init__(self, rng: np.random.Generator, nm: Floats, count: int) -> None:
        self.rng, self.nm, self.count = rng, nm, count

    def of_kind(self, number: int) -> Floats:
        """In the order of the shares."""
        kinds = (
            self._yellow, self._red, self._rose, self._violet, self._blue, self._plateau, self._green, self._earth, self._dark,
        )  # fmt: skip
        return kinds[number]()

    def _uniform(self, low: float, high: float) -> Floats:
        return self.rng.uniform(low, high, (self.count, 1))

    def _by_ratio(self, low: float, high: float) -> Floats:
        return np.exp(self._uniform(np.log(low), np.log(high)))

    def _some(self, share: float, curve: Floats) -> Floats:
        """The curve for a share of the pigments, nothing for the rest."""
        return np.where(self.rng.random((self.count, 1)) < share, curve, 0.0)

    def _below(self, edge: Floats, width: Floats) -> Floats:
        """All that is shorter than an edge."""
        return np.asarray(1 / (1 + np.exp(np.clip((self.nm - edge) / width, -50, 50))))

    def _band(self, centre: Floats, width: Floats) -> Floats:
        return np.asarray(np.exp(-(((self.nm - centre) / width) ** 2)))

    def _violet_end(self) -> Floats:
        return self._uniform(0, 0.3) * self._below(self._uniform(400, 435), self._uniform(6, 20))

    def _yellow(self) -> Floats:
        return self._below(self._uniform(470, 560), self._by_ratio(5, 20))

    def _red(self) -> Floats:
        """Some let a little blue through."""
        blue = self._uniform(0, 0.6) * self._band(self._uniform(415, 480), self._uniform(25, 50))
        return self._below(self._uniform(562, 628), self._by_ratio(5, 16)) * (1 - blue)

    def _rose(self) -> Floats:
        """Two narrow bands, as quinacridones have, and a shoulder toward the blue."""
        centre = self._uniform(520, 550)
        longer = self._uniform(0.3, 1.1) * self._band(centre + self._uniform(28, 40), self._uniform(14, 26))
        shoulder = self._uniform(0.1, 0.6) * self._band(centre - self._uniform(30, 45), self._uniform(22, 45))
        return self._band(centre, self._uniform(18, 34)) + longer + shoulder + self._violet_end()

    def _violet(self) -> Floats:
        centre = self._uniform(530, 600)
        longer = self._some(0.5, self._uniform(0.3, 1) * self._band(centre + self._uniform(40, 75), self._uniform(20, 40)))
        shorter = self._some(0.5, self._uniform(0.05, 0.3) * self._band(centre - self._uniform(50, 80), self._uniform(25, 45)))
        return self._band(centre, self._uniform(32, 70)) + longer + shorter + 0.5 * self._violet_end()

    def _blue(self) -> Floats:
        """One broad band, of ultramarine and cobalt; some go on into the deep red."""
        centre = self._uniform(575, 640)
        deep_red = self._some(0.6, self._uniform(0.05, 0.45) * (1 - self._below(centre + self._uniform(20, 60), self._uniform(10, 25))))
        return self._band(centre, self._uniform(42, 90)) + deep_red + 0.5 * self._violet_end()

    def _plateau(self) -> Floats:
        """From orange to the end of what is seen, with a dip between two bands, as phthalocyanines have."""
        start = self._uniform(555, 620)
        dip = self._uniform(0, 0.4) * self._band(start + self._uniform(45, 75), self._uniform(18, 35))
        whole = (1 - self._below(start, self._uniform(8, 28))) * self._below(self._uniform(690, 780), self._uniform(10, 30))
        return whole * (1 - dip) + self._violet_end()

    def _green(self) -> Floats:
        """Red and violet at once."""
        red = np.where(self._halves(), self._band(self._uniform(600, 690), self._uniform(45, 95)), self._plateau())
        band, edge = self._band(self._uniform(410, 460), self._uniform(30, 60)), self._below(self._uniform(430, 490), self._uniform(6, 20))
        return red + self._uniform(0.3, 1.2) * np.where(self._halves(), band, edge)

    def _earth(self) -> Floats:
        """An edge that leans, over some grey."""
        iron = self._some(0.4, self._uniform(0.05, 0.3) * self._band(self._uniform(620, 690), self._uniform(35, 60)))
        return self._below(self._uniform(520, 605), self._by_ratio(16, 50)) + self._uniform(0.03, 0.5) + iron

    def _dark(self) -> Floats:
        return 1 + self._uniform(-0.4, 0.4) * (self.nm - 560) / 180

    def _halves(self) -> Floats:
        return np.asarray(self.rng.random((self.count, 1)) < 0.5)
