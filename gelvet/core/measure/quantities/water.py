"""What water did, as frozen values: drops, tilted strips and effects."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class WetDrop:
    """Paint touched into a wet patch: `reach_mm` None where it ran to the zone's edge; L*a*b* (3,) at the centre and the rim,
    and how far they lie apart in ΔE*ab beyond what dilution gives, None where the path is unknown; `u` in mm; `profile`
    (n, 2) of distance in mm and tint depth."""

    reach_mm: float | None
    centre: Floats
    rim: Floats
    parted: float | None
    u: float
    profile: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterDrop:
    """Water dropped into a fresh wash: `area_mm2` inside its rim; `rim` that ring's tint depth over the wash's."""

    area_mm2: float
    rim: float
    u: float
    profile: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Tilt:
    """L*a*b* (3,) where a tilted strip began and where it ran to; `parted` as for a drop."""

    head: Floats
    tail: Floats
    parted: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """A pattern made on purpose: `contrast` in L* beyond the plain wash, `size_mm` a full width at half height."""

    name: str
    contrast: float
    size_mm: float | None
