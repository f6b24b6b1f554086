"""Distance of two measured paints at equal relative depth, and of every property in units of uncertainty (measurement.md 11)."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000

Swatch = Mapping[str, Any]
COVERAGE = 2.0  # a difference is called real only beyond this many combined standard uncertainties
_PATH_SHARES = np.linspace(1.0, 0.15, 18)

# What can be compared beside colour: key, where it stands in a swatch, its uncertainty there, unit, title.
PROPERTIES: tuple[tuple[str, tuple[str, ...], tuple[str, ...], str, str], ...] = (
    ("masstone_L", ("value_range", "masstone_L"), ("masstone", "u"), "L*", "masstone lightness"),
    ("wash_L", ("value_range", "wash_L"), ("wash", "u"), "L*", "wash lightness"),
    ("span_L", ("value_range", "span_L"), ("value_range", "u"), "L*", "value span"),
    ("delta_h", ("hue_shift", "delta_h"), ("hue_shift", "u"), "°", "hue shift"),
    ("half_light", ("strength", "half_light", "fraction"), ("strength", "half_light", "u"), "", "paint that halves the light"),
    ("granulation", ("granulation", "index"), ("granulation", "u"), "L*", "granulation"),
    ("grain_mm", ("granulation", "grain_mm"), ("granulation", "grain_u"), "mm", "grain width"),
    ("separation", ("separation", "index"), ("separation", "u"), "ΔE", "separation"),
    ("glints", ("sparkle", "density"), ("sparkle", "u"), "per cm²", "glints"),
    ("veil", ("hiding", "veil"), ("hiding", "u"), "", "veil"),
    ("removed", ("lifting", "removed"), ("lifting", "u"), "", "share lifted"),
)


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

    key: str
    title: str
    unit: str
    first: float | None
    second: float | None
    u: float | None

    @property
    def difference(self) -> float | None:
        return None if self.first is None or self.second is None else self.second - self.first

    @property
    def real(self) -> bool:
        return self.difference is not None and self.u is not None and abs(self.difference) > COVERAGE * self.u


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
        properties=tuple(_property(first, second, *p) for p in PROPERTIES),
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


def _property(
    first: Swatch, second: Swatch, key: str, value: tuple[str, ...], error: tuple[str, ...], unit: str, title: str
) -> PropertyDifference:
    return PropertyDifference(
        key=key,
        title=title,
        unit=unit,
        first=_figure(first, value),
        second=_figure(second, value),
        u=_combined(_figure(first, error), _figure(second, error)),
    )


def _figure(swatch: Swatch, where: tuple[str, ...]) -> float | None:
    """None where it, or what it is a part of, was not measured."""
    found: Any = swatch
    for key in where:
        found = found.get(key) if found else None
    return None if found is None else float(found)


def _combined(one: float | None, two: float | None) -> float | None:
    return None if one is None or two is None else float(np.hypot(one, two))
