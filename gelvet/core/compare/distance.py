"""Distance of two measured paints at equal relative depth, and of every property in units of uncertainty (measurement.md 11)."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.compare.properties import PROPERTIES, Property, Swatch, figure

COVERAGE = 2.0  # a difference is called real only beyond this many combined standard uncertainties
_PATH_SHARES = np.linspace(1.0, 0.15, 18)


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourDistance:
    """CIEDE2000 at one place of the path, with the combined u (k = 1); absent figures are None."""

    place: str
    de00: float | None
    u: float | None

    @property
    def real(self) -> bool:
        return self.de00 is not None and self.u is not None and self.de00 > COVERAGE * self.u


@dataclass(frozen=True, slots=True, kw_only=True)
class PropertyDifference:
    """`second` less `first` of one property."""

    of: Property
    first: float | None
    second: float | None
    u: float | None

    @property
    def difference(self) -> float | None:
        return None if self.first is None or self.second is None else self.second - self.first

    @property
    def times_u(self) -> float | None:
        """How many times its combined standard uncertainty the difference is."""
        return None if self.difference is None or not self.u else abs(self.difference) / self.u

    @property
    def real(self) -> bool:
        return self.times_u is not None and self.times_u > COVERAGE


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    first: Swatch
    second: Swatch
    distances: tuple[ColourDistance, ...]
    properties: tuple[PropertyDifference, ...]


def compare_swatches(first: Swatch, second: Swatch) -> Comparison:
    """Two swatches of measurement documents."""
    places = tuple(_at_place(first, second, place) for place in ("masstone", "half", "wash"))
    return Comparison(
        first=first,
        second=second,
        distances=(*places, _along_path(first, second)),
        properties=tuple(d for p in PROPERTIES if (d := _difference(first, second, p)).of.chief or d.difference is not None),
    )


def _at_place(first: Swatch, second: Swatch, place: str) -> ColourDistance:
    one, two = first[place]["lab"], second[place]["lab"]
    if one is None or two is None:
        return ColourDistance(place=place, de00=None, u=None)
    return ColourDistance(
        place=place, de00=float(ciede2000(np.array(one), np.array(two))), u=_combined(first[place].get("u"), second[place].get("u"))
    )


def _along_path(first: Swatch, second: Swatch) -> ColourDistance:
    """Mean over equal shares of each paint's own masstone depth."""
    if not first["path"] or not second["path"]:
        return ColourDistance(place="path", de00=None, u=None)
    de = ciede2000(_path_at(first, _PATH_SHARES), _path_at(second, _PATH_SHARES))
    return ColourDistance(place="path", de00=float(de.mean()), u=_combined(first["half"].get("u"), second["half"].get("u")))


def _path_at(swatch: Swatch, shares: Floats) -> Floats:
    points = sorted(swatch["path"], key=lambda p: p["depth"])
    depth = np.array([p["depth"] for p in points])
    labs = np.array([p["lab"] for p in points])
    wanted = shares * swatch["masstone"]["depth"]
    return np.stack([np.interp(wanted, depth, labs[:, c]) for c in range(3)], axis=1)


def _difference(first: Swatch, second: Swatch, of: Property) -> PropertyDifference:
    return PropertyDifference(
        of=of,
        first=figure(first, of.value),
        second=figure(second, of.value),
        u=_combined(figure(first, of.u), figure(second, of.u)),
    )


def _combined(one: float | None, two: float | None) -> float | None:
    return None if one is None or two is None else float(np.hypot(one, two))
