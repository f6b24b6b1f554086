"""Sparkle: glints by number, strength and area, in heavy and in light colour (measurement.md 6)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.colour.spaces import WHITE_D50, lab_to_lch, xyz_to_lab
from gelvet.core.measure.low_lamps.glints import COUNTED_MM2, MINIMUM_PIXELS_PER_MM, ShotGlints, glints_in
from gelvet.core.measure.quantities.texture import Sparkle
from gelvet.core.measure.uncertainty import hue_u_deg
from gelvet.core.measure.values import Absent, Figure, ZonePixels

_EDGE_MM = 0.8
_KINDS = ("masstone", "gradient", "wash", "black_paper")
# Counted for themselves: what stayed after lifting, what sparkles over the ink line.
_APART = ("lifted", "over_ink")
_MIXED = "mix"
_GLINT_MM = 0.12
# The faintest glints drown in strong relief: what is missed of all, in trials (k = 1).
_MISSED_SHARE = 0.15
# How well a glint's light is known, as a share of it (k = 1).
_GLINT_LIGHT_U = 0.1
# Fewer glints than this may be none; more are there, however strong the relief.
_PLAINLY_SOME, _FAR_STRONGER = 8, 2.0
_HEAVY, _LIGHT, _ON_BLACK = ("masstone",), ("wash",), ("black_paper",)
_SMALLEST_CM2 = 0.2
_MOST_PIXELS_PER_MM = 24.0
# Glints whose light is greyer than this have no hue of their own.
_COLOURED = 8.0


@dataclass(frozen=True, slots=True)
class FoundGlints:
    """Glints of one zone: of each counting shot."""

    kind: str
    area_cm2: float
    shots: list[ShotGlints]


def find_glints(lights: Sequence[LitShot], zones: Mapping[str, Sequence[Zone]]) -> list[FoundGlints] | Absent:
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
    return [
        FoundGlints(kind, rect.width * rect.height / 100, [found[i] for i in counting])
        for kind in (*_KINDS, *_APART, _MIXED)
        for rect in _places(zones.get(kind, ()))
        for found in (glints_in(lights, rect, scale),)
    ]


def mix_sparkle(lights: Sequence[LitShot], zone: Zone) -> Sparkle | Absent:
    """The glints of one mixed colour: what is left of its parts' sparkle."""
    found = find_glints(lights, {_MIXED: [zone]})
    return found if isinstance(found, Absent) else _sparkle_of(found, len(lights))


def sparkle(found: Sequence[FoundGlints] | Absent, lights: int) -> Sparkle | Absent:
    """What the glints of a swatch's plain zones come to, with so many `lights`."""
    if isinstance(found, Absent):
        return found
    return _sparkle_of([c for c in found if c.kind in _KINDS], lights)


def _sparkle_of(counted: Sequence[FoundGlints], lights: int) -> Sparkle | Absent:
    area = sum(c.area_cm2 * min(s.judged_share for s in c.shots) for c in counted)
    if area < _SMALLEST_CM2:
        return Absent("too little of the paint could be used for glints; expose the low lamp's shots one stop less")
    density, strength, coverage = _means(counted)
    lamps = len(counted[0].shots)
    number = density * area * lamps
    if _drowned(counted):
        return Absent("the paper's relief shades so strongly under these lamps that glints would not stand out; raise the lamps")
    return Sparkle(
        density=density,
        strength=strength,
        coverage=coverage,
        u=_density_u(density, area * lamps),
        strength_u=_light_u(strength, number) + COUNTED_MM2 / (area * lamps),
        coverage_u=_light_u(coverage, number) + COUNTED_MM2 / (area * lamps) / 100,
        heavy=glints_of(counted, _HEAVY),
        light=glints_of(counted, _LIGHT),
        on_black=glints_of(counted, _ON_BLACK),
        hue=_hue(counted),
        clipped=any(s.clipped for c in counted for s in c.shots),
        shots=lights,
    )


def _drowned(counted: Sequence[FoundGlints]) -> bool:
    """Whether glints may be there that do not stand out: few do, and over half of the area, of all shots, nothing would but what is far
    stronger than the faintest glint that counts."""
    areas = np.array([c.area_cm2 for c in counted for _ in c.shots])
    hidden = np.array([s.faintest_mm2 > _FAR_STRONGER * COUNTED_MM2 for c in counted for s in c.shots])
    number = sum(len(s.energy_mm2) for c in counted for s in c.shots)
    return bool(number < _PLAINLY_SOME and areas[hidden].sum() > 0.5 * areas.sum())


def glints_of(found: Sequence[FoundGlints] | Absent, kinds: Sequence[str]) -> Figure | None:
    """Glints per cm² in zones of some kinds, the mean of the shots; None where there is no such zone, or relief drowns them."""
    chosen = [] if isinstance(found, Absent) else [c for c in found if c.kind in kinds]
    if not chosen or _drowned(chosen):
        return None
    density = _means(chosen)[0]
    return Figure(density, _density_u(density, _looked_at(chosen)))


def glint_light(found: Sequence[FoundGlints] | Absent, kind: str) -> Figure | None:
    """The glints' light over all of a zone as a share of the paper's, the mean of the shots; None where unknown."""
    chosen = [] if isinstance(found, Absent) else [c for c in found if c.kind == kind]
    if not chosen or _drowned(chosen):
        return None
    density, strength, _ = _means(chosen)
    return Figure(strength / 100, _light_u(strength, density * _looked_at(chosen)) / 100)


def _looked_at(counted: Sequence[FoundGlints]) -> float:
    """cm² of all shots together."""
    return max(sum(c.area_cm2 * s.judged_share for c in counted for s in c.shots), 1e-6)


def _density_u(density: float, looked_at_cm2: float) -> float:
    """Of glints per cm²: chance has as many as it likes (Poisson), and the faintest are missed."""
    return float(np.sqrt(density * looked_at_cm2 + 1) / looked_at_cm2 + _MISSED_SHARE * density)


def _light_u(light: float, number: float) -> float:
    """Of the light, or the area, of so many glints together."""
    return float(light * (_GLINT_LIGHT_U + 1 / np.sqrt(number + 1)))


def without_glints(pixels: ZonePixels, corner_mm: tuple[float, float], found: Sequence[FoundGlints] | Absent) -> ZonePixels:
    """The pixels, whose first one lies at `corner_mm`, with every place that shone under some lamp left out."""
    places = [] if isinstance(found, Absent) else [s.places_mm for c in found for s in c.shots if len(s.places_mm)]
    if not places:
        return pixels
    import cv2

    marks = np.zeros(pixels.good.shape, np.uint8)
    cells = ((np.concatenate(places) - corner_mm) * pixels.pixels_per_mm).astype(int)
    inside = ((cells >= 0) & (cells < np.array(marks.shape[::-1]))).all(axis=1)
    marks[cells[inside][:, 1], cells[inside][:, 0]] = 1
    reach = 2 * max(1, round(_GLINT_MM * pixels.pixels_per_mm)) + 1
    grown = cv2.dilate(marks, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
    return replace(pixels, good=pixels.good & (grown == 0))


def _places(zones: Sequence[Zone]) -> list[Rect]:
    inner = [z.rect.inset(min(_EDGE_MM, 0.12 * min(z.rect.width, z.rect.height))) for z in zones]
    return [rect for rect in inner if min(rect.width, rect.height) > 2.0]


def _means(counted: Sequence[FoundGlints]) -> tuple[float, float, float]:
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


def _hue(counted: Sequence[FoundGlints]) -> Figure | None:
    """Hue angle of the glints' own light, unsure by how far zones and shots differ; None where there are too few or they are colourless."""
    lights: list[Floats] = [s.light for c in counted for s in c.shots if s.light is not None and len(s.energy_mm2) >= 3]
    if not lights:
        return None
    seen = np.maximum([np.mean(lights, axis=0), *lights], 1e-4)
    labs = xyz_to_lab(seen / seen[:, 1:2] * 0.6 * WHITE_D50)
    _, chroma, hue = lab_to_lch(labs[0])
    if chroma <= _COLOURED:
        return None
    apart = labs[1:].std(axis=0) / np.sqrt(len(lights)) if len(lights) > 1 else labs[0] * _GLINT_LIGHT_U
    return Figure(float(hue), hue_u_deg(labs[0], np.abs(apart)))
