"""Sheen: how far the body colour changes with the light's side (measurement.md 6)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Zone
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab
from gelvet.core.measure.quantities.texture import Sheen
from gelvet.core.measure.uncertainty import turn_u_deg
from gelvet.core.measure.values import Absent

NOTHING_BELOW = 1.0
_ON_WHITE, _ON_BLACK = ("masstone", "gradient"), ("black_paper",)
_PIXELS_PER_MM, _BLOCK_PIXELS = 6.0, 12
_EDGE_MM = 0.6
# Of the lightest and of the darkest, so much counts for nothing: glints, and as many on the other side.
_LEFT_OUT = 0.03
# Greyer than this a body colour has no hue to turn.
_COLOURED = 5.0
# Patches end where darkness begins: below them a fitted curve's light is uncertain by so much of white (k = 1), what simulated
# cameras' curves are missed by under 0.02, and where shots in other light set it right; a straight one has no bend there to miss.
_DARK_LIGHT_U, _SET_RIGHT_U = 0.001, 0.0006
# How evenly a shot's light over one place is known, as a share of it, and what else shots of matte paint differ by, ΔE00 (k = 1).
_LEVEL_U, _LEFT_U = 0.005, 0.2
# A colour model made for paints misjudges light that a surface sends back by such a share of what it changes (k = 1).
_SURFACE_SHARE_U = 0.2


@dataclass(frozen=True, slots=True)
class _Body:
    """A zone under one light, its paper as white: its L*a*b* (3,), that of its blocks (n, 3), and how a small error of the
    shot's level and one of the curve's dark end would change it (3,) each."""

    lab: Floats
    blocks: Floats
    by_level: Floats
    by_dark: Floats


def sheen(lights: Sequence[LitShot], zones: Mapping[str, Sequence[Zone]]) -> Sheen | Absent:
    """The largest CIEDE2000 of the body's colour, paper-relative within each shot, between any two lights."""
    if len(lights) < 2:
        return Absent("one shot cannot show how the colour changes with the light; add shots with a low lamp")
    lights = [light for light in lights if not light.other_colours]
    if len(lights) < 2:
        return Absent("the colours of the other shots do not compare with the even one's; the capture's warnings say why")
    on_white, on_black = (next((zones[kind][0] for kind in kinds if zones.get(kind)), None) for kinds in (_ON_WHITE, _ON_BLACK))
    chosen = on_white or on_black
    if chosen is None:
        return Absent("the card has neither a masstone nor a gradient zone for this paint")
    found = _between_lights(lights, chosen)
    if found is None:
        return Absent("fewer than two shots show the paint without clipping")
    return replace(found, on_black=_between_lights(lights, on_black) if on_white and on_black else None)


def _between_lights(lights: Sequence[LitShot], zone: Zone) -> Sheen | None:
    """What the colour of one zone does between the lights; None where fewer than two show it."""
    bodies = [body for light in lights if (body := _body(light, zone)) is not None]
    if len(bodies) < 2:
        return None
    pairs = [(float(ciede2000(one.lab, other.lab)), _uncertainty(one, other), one.lab, other.lab) for one, other in combinations(bodies, 2)]
    delta, u, first, second = max(pairs, key=lambda pair: pair[0])
    travel = travel_u = None
    chroma = min(float(np.hypot(lab[1], lab[2])) for lab in (first, second))
    if chroma > _COLOURED:
        hues = [np.degrees(np.arctan2(lab[2], lab[1])) for lab in (first, second)]
        travel = abs(turn_deg(hues[0], hues[1]))
        travel_u = turn_u_deg(u, chroma)
    claimed = any(apart >= max(NOTHING_BELOW, 2 * unsure) for apart, unsure, _, _ in pairs)
    return Sheen(delta_e00=delta, u=u, hue_travel=travel, hue_travel_u=travel_u, claimed=claimed, shots=len(bodies))


def _uncertainty(one: _Body, other: _Body) -> float:
    """Of the CIEDE2000 between two lights (k = 1): what blocks of the zone differ in, how evenly each shot's light is known, and what
    the curve misses in the dark, which a dimmer light shows more."""
    apart = one.blocks - other.blocks if one.blocks.shape == other.blocks.shape else np.zeros((1, 3))
    by_place = apart.std(axis=0) / np.sqrt(len(apart))
    middle = (one.lab + other.lab) / 2
    parts = (by_place, one.by_level, other.by_level, one.by_dark - other.by_dark, _SURFACE_SHARE_U * (one.lab - other.lab))
    return float(np.linalg.norm([_LEFT_U, *(float(ciede2000(middle, middle + part)) for part in parts)]))


def _body(light: LitShot, zone: Zone) -> _Body | None:
    """The zone under one light; None where too little of it is good."""
    linear, good = light.capture.linear(zone.rect.inset(_EDGE_MM), _PIXELS_PER_MM)
    if good.mean() < 0.3:
        return None
    linear = light.alike(linear)
    n = _BLOCK_PIXELS
    xyz = light.capture.colours(linear) / light.paper
    height, width = (max(side // n, 1) for side in good.shape)
    parts = [xyz[n * i : n * i + n, n * j : n * j + n].reshape(-1, 3) for i in range(height) for j in range(width)]
    lab = xyz_to_lab(np.stack([body_mean(part) for part in (xyz[good], *parts)]) * WHITE_D50)
    middle = np.median(linear[good], axis=0).astype(float)
    cal = light.capture.calibration
    level = cal.light.at(*(np.array(v) for v in zone.rect.centre))
    dark = (_SET_RIGHT_U if cal.dark_light else _DARK_LIGHT_U) * cal.bent_in_the_dark / level
    there = xyz_to_lab(light.capture.colours(np.stack([middle, middle * (1 + _LEVEL_U), middle + dark])) / light.paper * WHITE_D50)
    return _Body(lab=lab[0], blocks=lab[1:], by_level=there[1] - there[0], by_dark=there[2] - there[0])


def body_mean(xyz: Floats) -> Floats:
    """Mean (3,) of pixels (n, 3) without the lightest, which are glints, nor as many of the darkest.

    A low lamp shades the paper's relief: that spreads the light of granulating paint, and would move its median though the paint
    sends back as much as before.
    """
    order = np.argsort(xyz[:, 1])
    edge = int(_LEFT_OUT * len(order))
    return np.asarray(xyz[order[edge : len(order) - edge]].mean(axis=0, dtype=float))
