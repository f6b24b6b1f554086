"""Tinting strength: how fast K/S rises with the share of paint (measurement.md 3)."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.quantities.colour import HalfLight, Strength
from gelvet.core.measure.uncertainty import LEAST_LIGHT, light, light_u, ratio_u
from gelvet.core.measure.values import Absent, Figure, ZoneColour

_FEWEST = 2
_HALF = float(np.log10(2))


def kubelka_munk(reflectance: Floats) -> Floats:
    """K/S of reflectances 0 to 1 (P. Kubelka, F. Munk, Z. tech. Phys. 12 (1931) 593)."""
    r = np.clip(reflectance, LEAST_LIGHT, 1.0)
    return np.asarray((1 - r) ** 2 / (2 * r))


def strength(paper: ZoneColour, steps: Sequence[tuple[float, ZoneColour]]) -> Strength | Absent:
    """`steps` are paint fractions (0 to 1) and their colours. The slope is that of a line through the bare paper at 0, in the channel
    that gives the fullest step its tint depth."""
    known = sorted(((f, c) for f, c in steps if 0 < f <= 1), key=lambda step: step[0])
    if len(known) < _FEWEST:
        return Absent("the card has fewer than two dilution steps of known paint fraction")
    fraction = np.array([f for f, _ in known])
    reflectance = np.array([c.xyz for _, c in known]) / WHITE_D50
    channel = int(np.argmin(known[-1][1].xyz / paper.xyz))
    rise = kubelka_munk(reflectance[:, channel]) - float(kubelka_munk(paper.xyz[channel] / WHITE_D50[channel]))
    slope = float((fraction @ rise) / (fraction @ fraction))
    if slope <= 0:
        return Absent("the steps are no darker than the bare paper")
    return Strength(
        slope=slope,
        channel="XYZ"[channel],
        steps=len(known),
        u=float(fraction @ _kubelka_munk_u([c for _, c in known], channel) / (fraction @ fraction)),
        half_light=_half_light(paper, fraction, [c for _, c in known], channel),
    )


def against(measured: Strength, reference: Strength) -> Strength:
    """Itself, as a share of a reference paint's strength."""
    half, whole = measured.half_light, reference.half_light
    if half is not None and whole is not None:
        relative_u = ratio_u(Figure(whole.fraction, whole.u), Figure(half.fraction, half.u))
        half = replace(half, relative=whole.fraction / half.fraction, relative_u=relative_u)
    slopes = Figure(measured.slope, measured.u), Figure(reference.slope, reference.u)
    return replace(measured, relative=measured.slope / reference.slope, relative_u=ratio_u(*slopes), half_light=half)


def _half_light(paper: ZoneColour, fraction: Floats, steps: Sequence[ZoneColour], channel: int) -> HalfLight | None:
    """Where the density of one channel passes log 2, on straight lines from the bare paper over the steps, those of one fraction
    taken together. An error of the darkest step's colour, which rules the slope of K/S, does not reach it."""
    places = np.unique(fraction)

    def from_paper(values: Floats) -> Floats:
        return np.append(0.0, [values[fraction == place].mean() for place in places])

    density = from_paper(np.log10(light(paper, channel) / np.array([light(c, channel) for c in steps])))
    doubt = from_paper(np.array([light_u(c, channel) for c in steps]) / np.log(10))
    reached = np.flatnonzero(density >= _HALF)
    if len(reached) == 0:
        return None
    place = np.append(0.0, places)
    after = int(reached[0])
    before = after - 1
    share = float((_HALF - density[before]) / (density[after] - density[before]))
    slope = (density[after] - density[before]) / (place[after] - place[before])
    # An error of the density moves the crossing the more, the flatter the line; both steps err together.
    u = (share * doubt[after] + (1 - share) * doubt[before]) / slope
    return HalfLight(fraction=float(place[before] + share * (place[after] - place[before])), u=float(u))


def _kubelka_munk_u(steps: Sequence[ZoneColour], channel: int) -> Floats:
    """Uncertainty (n,) of K/S; one colour model made all steps' colours, so that these err together."""
    r = np.array([light(c, channel) for c in steps])
    return np.asarray((1 - r**2) / (2 * r) * np.array([light_u(c, channel) for c in steps]))
