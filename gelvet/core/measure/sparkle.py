"""Sparkle: glints by number, strength and area, in heavy and in light colour (measurement.md 6)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.colour.spaces import WHITE_D50, lab_to_lch, xyz_to_lab
from gelvet.core.measure.glints import MINIMUM_PIXELS_PER_MM, ShotGlints, glints_in
from gelvet.core.measure.values import Absent, Sparkle

_EDGE_MM = 0.8
_KINDS = ("masstone", "gradient", "wash", "black_paper")
_HEAVY, _LIGHT = ("masstone",), ("wash",)
_SMALLEST_CM2 = 0.2
_MOST_PIXELS_PER_MM = 24.0
# Glints whose light is greyer than this have no hue of their own.
_COLOURED = 8.0


@dataclass(frozen=True, slots=True)
class _Counted:
    """Glints of one zone: of each counting shot."""

    kind: str
    area_cm2: float
    shots: list[ShotGlints]


def sparkle(lights: Sequence[LitShot], zones: Mapping[str, Sequence[Zone]]) -> Sparkle | Absent:
    """`zones` of the swatch by kind. Absent with one light only, or where the shots are too coarse."""
    if len(lights) < 2:
        return Absent("one shot cannot tell glints from specks; add shots with a low lamp from two sides")
    finest = min(light.capture.calibration.geometry.pixels_per_mm for light in lights)
    if finest < MINIMUM_PIXELS_PER_MM:
        return Absent(
            f"the resolution of {finest * 25.4:.0f} dpi is too low for glints; {MINIMUM_PIXELS_PER_MM * 25.4:.0f} dpi would be enough"
        )
    scale = min(finest, _MOST_PIXELS_PER_MM)
    # A flat shot between lamps serves as the dark one; alone with one lamp, or turned, it counts too.
    counting = [i for i, light in enumerate(lights) if light.raking] or list(range(len(lights)))
    counted = [
        _Counted(kind, rect.width * rect.height / 100, [found[i] for i in counting])
        for kind in _KINDS
        for rect in _places(zones.get(kind, ()))
        for found in (glints_in(lights, rect, scale),)
    ]
    area = sum(c.area_cm2 * min(s.judged_share for s in c.shots) for c in counted)
    if area < _SMALLEST_CM2:
        return Absent("too little of the paint could be used for glints; expose the low lamp's shots one stop less")
    density, strength, coverage = _means(counted)
    lamps, number = len(counting), density * area * len(counting)
    return Sparkle(
        density=density,
        strength=strength,
        coverage=coverage,
        u=float(np.sqrt(number + 1) / (area * lamps) + 0.05 * density),
        strength_u=float(strength * (0.1 + 1 / np.sqrt(number + 1))),
        heavy=_density_of(counted, _HEAVY),
        light=_density_of(counted, _LIGHT),
        hue=_hue(counted),
        clipped=any(s.clipped for c in counted for s in c.shots),
        shots=len(lights),
    )


def _places(zones: Sequence[Zone]) -> list[Rect]:
    inner = [z.rect.inset(min(_EDGE_MM, 0.12 * min(z.rect.width, z.rect.height))) for z in zones]
    return [rect for rect in inner if min(rect.width, rect.height) > 2.0]


def _means(counted: Sequence[_Counted]) -> tuple[float, float, float]:
    """Glints and their energy per cm² of what is not overexposed, and the share of the area, each the mean of the shots."""
    shots = range(len(counted[0].shots))
    means = []
    for i in shots:
        area = max(sum(c.area_cm2 * c.shots[i].judged_share for c in counted), 1e-6)
        number = sum(len(c.shots[i].energy_mm2) for c in counted)
        energy = sum(float(c.shots[i].energy_mm2.sum()) for c in counted)
        means.append((number / area, energy / area, sum(c.shots[i].coverage * c.area_cm2 for c in counted) / area))
    density, strength, coverage = np.mean(means, axis=0).tolist()
    return density, strength, coverage


def _density_of(counted: Sequence[_Counted], kinds: Sequence[str]) -> float | None:
    chosen = [c for c in counted if c.kind in kinds]
    return _means(chosen)[0] if chosen else None


def _hue(counted: Sequence[_Counted]) -> float | None:
    """Hue angle of the glints' own light; None where there are too few or they are colourless."""
    lights: list[Floats] = [s.light for c in counted for s in c.shots if s.light is not None and len(s.energy_mm2) >= 3]
    if not lights:
        return None
    mean = np.maximum(np.mean(lights, axis=0), 1e-4)
    _, chroma, hue = lab_to_lch(xyz_to_lab(mean / mean[1] * 0.6 * WHITE_D50))
    return float(hue) if chroma > _COLOURED else None
