"""What water did, as frozen values: drops, tilted strips and effects."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats
from gelvet.core.measure.values import Figure


@dataclass(frozen=True, slots=True, kw_only=True)
class WetDrop:
    """Paint touched into a wet patch: `reach_mm` None where it ran to the zone's edge; L*a*b* (3,) at the centre and the rim, each
    known to `colour_u` in CIEDE2000, and how far they lie apart in ΔE*ab beyond what dilution gives, None where the path is unknown;
    `u` in mm; `profile` (n, 2) of distance in mm and tint depth."""

    reach_mm: float | None
    u: float
    centre: Floats
    rim: Floats
    colour_u: float
    parted: Figure | None
    profile: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterDrop:
    """Water dropped into a fresh wash: `area_mm2` inside its rim; `rim` that ring's tint depth over the wash's, with `u`."""

    area_mm2: float
    area_u: float
    rim: float
    u: float
    profile: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Tilt:
    """L*a*b* (3,) where a tilted strip began and where it ran to; `colour_u` and `parted` as for a drop."""

    head: Floats
    tail: Floats
    colour_u: float
    parted: Figure | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """A pattern made on purpose: `contrast` in L* beyond the plain wash, `size_mm` a full width at half height."""

    name: str
    contrast: float
    contrast_u: float
    size_mm: Figure | None
