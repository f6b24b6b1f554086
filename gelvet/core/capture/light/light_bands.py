"""Bands across a picture: a lamp that flickers while rows are read one after the other, or a scanner's lamp that does."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.placing.geometry import sample_places
from gelvet.core.card.layout import Rect
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Bands of these lengths are sought, by such a share of a wave over the whole card, and then so much finer; longer ones, and of which fewer
# than so many lie on the card, are smooth light.
_SHORTEST_MM, _LONGEST_MM, _STEP, _FINER, _FEWEST_WAVES = 6.0, 60.0, 0.25, 16, 1.5
_BIN_MM, _HARMONICS, _TREND = 1.5, 2, 3
# Fainter bands than this (natural logarithm) are left to the paper; so many places must tell, and so much of it show at a first look.
_FAINTEST, _FEWEST, _WORTH_A_LOOK = 0.006, 200, 0.5
# Bands are the same on both sides of the card, but for this share; slopes of paper and stains are not.
_ALIKE = 0.3


@dataclass(frozen=True, slots=True)
class LightBands:
    """The logarithm of the light as a wave and its overtone along an `axis` of the picture (0 across, 1 down), to which `to_picture`
    (3, 3) takes card mm, in units of about 1 mm; `parts` (4,) are the cosine and the sine of each."""

    to_picture: Floats
    axis: int
    waves_per_mm: float
    parts: Floats

    def at(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """Logarithm (...) of the relative light at card points (...)."""
        place = _in_picture(self.to_picture, np.asarray(x_mm), np.asarray(y_mm))[self.axis]
        return np.asarray(_waves(self.waves_per_mm * place) @ self.parts.astype(place.dtype))

    def over(self, rect: Rect, shape: tuple[int, int]) -> Floats:
        """The same (h, w) over the samples of a rectified `rect`."""
        x, y = (side.astype(np.float32) for side in sample_places(rect, shape))
        return self.at(x[None, :], y[:, None])


def find_bands(centres_mm: Floats, log_light: Floats, kept: Mask, to_picture: Floats) -> LightBands | None:
    """Bands along the picture's rows or columns in what smooth light leaves over (n,) at `centres_mm` (n, 2), of those `kept` (n,) that
    are bare paper; `to_picture` as in `LightBands`. None where there are none."""
    if kept.sum() < _FEWEST:
        return None
    x, y = centres_mm[kept].T
    places, light = _in_picture(to_picture, x, y), log_light[kept]
    lines = [_along(place, light) for place in places]
    axis = int(np.argmax([line.likely_strength for line in lines]))
    if lines[axis].likely_strength < _WORTH_A_LOOK * _FAINTEST:
        return None
    waves_per_mm = lines[axis].waves_per_mm()
    parts = _parts(waves_per_mm * places[axis], light)
    strength = float(np.hypot(*parts[:2]))
    side = places[1 - axis] < np.median(places[1 - axis])
    first, second = (_parts(waves_per_mm * places[axis][half], light[half])[:2] for half in (side, ~side))
    if strength < _FAINTEST or float(np.hypot(*(first - second))) > _ALIKE * strength:
        return None
    return LightBands(to_picture, axis, waves_per_mm, parts)


def _in_picture(to_picture: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Where across and down the picture (...) card points (...) are seen."""
    across, down, depth = (row[0] * x + row[1] * y + row[2] for row in to_picture.tolist())
    return across / depth, down / depth


def _waves(phase: Floats) -> Floats:
    """Cosine and sine (..., 4) of a wave and its overtone at `phase` (...), in waves."""
    angle = 2 * np.pi * phase
    return np.stack([part(order * angle) for order in range(1, _HARMONICS + 1) for part in (np.cos, np.sin)], axis=-1)


@dataclass(frozen=True, slots=True)
class _Line:
    """Light (n,) at places (n,) along one axis, weighed, beside a slow `trend` (n, 4); and a first look at its waves."""

    at: Floats
    light: Floats
    weight: Floats
    trend: Floats
    step: float = 0.0
    likely: float = 0.0
    likely_strength: float = 0.0

    def waves_per_mm(self) -> float:
        """How many waves there are to the mm, of those near the likely ones, now beside the trend and with their overtone."""
        near = self.likely + np.linspace(-1, 1, 2 * _FINER + 1) * self.step
        designs = (np.concatenate([self.trend, _waves(frequency * self.at)], axis=1) for frequency in near)
        left = [float(np.sum((self.weight * _left(design, self.light, self.weight)) ** 2)) for design in designs]
        return float(near[int(np.argmin(left))])


def _along(place: Floats, light: Floats) -> _Line:
    """Of places (n,) that lie too near each other to tell, a line without strength."""
    start, length = float(place.min()), float(np.ptp(place))
    bins = ((place - start) / _BIN_MM).astype(int)
    order = np.argsort(bins, kind="stable")
    numbers, starts, counts = np.unique(bins[order], return_index=True, return_counts=True)
    middles = np.array([np.median(part) for part in np.split(light[order], starts[1:])])
    at, weight = start + (numbers + 0.5) * _BIN_MM, np.sqrt(np.minimum(counts, 20))
    trend = np.vander(2 * (at - start) / max(length, _BIN_MM) - 1, _TREND + 1)
    line = _Line(at, middles, weight, trend)
    longest = min(_LONGEST_MM, length / _FEWEST_WAVES)
    if longest <= 2 * _SHORTEST_MM:
        return line
    # All waves at once, without their overtones.
    step = _STEP / length
    every = np.arange(1 / longest, 1 / _SHORTEST_MM, step)
    strengths = np.abs(np.exp(2j * np.pi * every[:, None] * at) @ (weight**2 * _left(trend, middles, weight))) * 2 / np.sum(weight**2)
    strongest = int(np.argmax(strengths))
    return replace(line, step=step, likely=float(every[strongest]), likely_strength=float(strengths[strongest]))


def _left(design: Floats, values: Floats, weight: Floats) -> Floats:
    """What a fit leaves over of the values (n,)."""
    solution = np.linalg.lstsq(design * weight[:, None], values * weight, rcond=None)[0]
    return np.asarray(values - design @ solution)


def _parts(phase: Floats, light: Floats) -> Floats:
    """Cosines and sines (4,) through the light (n,), what stands out left aside."""
    design = np.concatenate([_waves(phase), np.ones((len(phase), 1))], axis=1)
    near = np.ones(len(light), dtype=bool)
    solution: Floats = np.zeros(design.shape[1])
    for _ in range(3):
        solution = np.linalg.lstsq(design[near], light[near], rcond=None)[0]
        left = np.abs(light - design @ solution)
        near = left < 3 * SPREAD_OF_MEDIAN * float(np.median(left[near])) + 1e-3
    return np.asarray(solution[:-1])
