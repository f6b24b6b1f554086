"""Sheen: how far the body colour changes with the light's side (measurement.md 6)."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.lit_shots import LitShot
from gelvet.core.card.layout import Zone
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab
from gelvet.core.measure.quantities.texture import Sheen
from gelvet.core.measure.values import Absent

NOTHING_BELOW = 1.0
_ON_WHITE, _ON_BLACK = ("masstone", "gradient"), ("black_paper",)
_PIXELS_PER_MM = 6.0
_EDGE_MM = 0.6
# Greyer than this a body colour has no hue to turn.
_COLOURED = 5.0


def sheen(lights: Sequence[LitShot], zones: Mapping[str, Sequence[Zone]]) -> Sheen | Absent:
    """The largest CIEDE2000 of the median colour, paper-relative within each shot, between any two lights."""
    if len(lights) < 2:
        return Absent("one shot cannot show how the colour changes with the light; add shots with a low lamp")
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
    colours = [c for light in lights if (c := _body(light, zone)) is not None]
    if len(colours) < 2:
        return None
    apart = np.array([[float(ciede2000(a, b)) for b in colours] for a in colours])
    first, second = np.unravel_index(int(np.argmax(apart)), apart.shape)
    chroma = [float(np.hypot(lab[1], lab[2])) for lab in (colours[first], colours[second])]
    travel = None
    if min(chroma) > _COLOURED:
        hues = [np.degrees(np.arctan2(lab[2], lab[1])) for lab in (colours[first], colours[second])]
        travel = float(abs((hues[1] - hues[0] + 180) % 360 - 180))
    return Sheen(delta_e00=float(apart.max()), hue_travel=travel, claimed=bool(apart.max() >= NOTHING_BELOW), shots=len(colours))


def _body(light: LitShot, zone: Zone) -> Floats | None:
    """Median L*a*b* (3,) of the zone with this light's paper as white."""
    relative, good = light.relative(zone.rect.inset(_EDGE_MM), _PIXELS_PER_MM)
    if good.mean() < 0.3:
        return None
    return xyz_to_lab(np.median(relative[good], axis=0).astype(float) * WHITE_D50)
