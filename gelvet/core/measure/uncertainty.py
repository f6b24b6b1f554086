"""How the uncertainties of L*, a*, b* carry over to light, density, hue, chroma and what two colours differ by: first-order propagation
(JCGM 100:2008, 5.1 and 5.2). All of them are standard uncertainties, k = 1."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50
from gelvet.core.measure.values import Figure, ZoneColour

# Reflectances below this are no light at all.
LEAST_LIGHT = 1e-4


def light(colour: ZoneColour, channel: int) -> float:
    """Reflectance in one of X, Y, Z."""
    return max(float(colour.xyz[channel] / WHITE_D50[channel]), LEAST_LIGHT)


def light_u(colour: ZoneColour, channel: int) -> float:
    """Of one of X, Y, Z, as a share of it: L*, a*, b* are made of their cube roots (CIE 15:2018, 8.2.1)."""
    in_lightness, in_a, in_b = (float(u) for u in colour.u_lab)
    of_root = np.hypot(in_lightness / 116, (in_a / 500, 0.0, in_b / 200)[channel])
    return float(3 * of_root / np.cbrt(light(colour, channel)))


def hue_u_deg(lab: Floats, u_lab: Floats) -> float:
    """Of the hue angle of `lab` (3,), from that across the hue direction in the a*b* plane."""
    chroma = max(float(np.hypot(lab[1], lab[2])), 1e-6)
    across = float(np.hypot(lab[2] / chroma * u_lab[1], lab[1] / chroma * u_lab[2]))
    return float(np.degrees(across / chroma))


def chroma_u(lab: Floats, u_lab: Floats) -> float:
    """Of the chroma of `lab` (3,), from that along the hue direction in the a*b* plane."""
    chroma = max(float(np.hypot(lab[1], lab[2])), 1e-6)
    return float(np.hypot(lab[1] / chroma * u_lab[1], lab[2] / chroma * u_lab[2]))


def turn_u_deg(de00: float, chroma: float) -> float:
    """Of a turn of hue in degrees, of colours of that chroma whose difference is known to `de00`: so much in the plane of a* and b* is
    one CIEDE2000 across the hue's direction (CIE 142:2001, the weight of hue)."""
    return float(np.degrees(de00 * (1 + 0.015 * chroma) / chroma))


def difference_u(one: float, other: float, shared: float) -> float:
    """Of the difference of two figures whose errors correlate by `shared`."""
    return float(np.sqrt(max(one**2 + other**2 - 2 * shared * one * other, 0.0)))


def ratio_u(one: Figure, other: Figure) -> float:
    """Of one figure over another; a figure over itself is 1 and known."""
    return 0.0 if one == other else one.value / other.value * float(np.hypot(one.u / one.value, other.u / other.value))


def from_variance_u(sd: float, periods: float) -> float:
    """Of a standard deviation that so many independent places tell, if those are normal."""
    return sd / float(np.sqrt(2 * max(periods, 1.0)))


def rise(sd: float, variance: float) -> float:
    """By how much a standard deviation would rise if so much more variance were in it."""
    return float(variance / max(sd + np.sqrt(sd**2 + variance), 1e-9))
