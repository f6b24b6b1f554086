"""A swatch's colours as frozen values: the path from masstone to wash, and what follows from it."""

from dataclasses import dataclass, field

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.values import ZoneColour

# Depths of the wash and of the half tint, as shares of the masstone's.
WASH_SHARE, HALF_SHARE = 0.15, 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class DilutionPath:
    """Depth (n,) and mean XYZ (n, 3) from masstone (first) to the palest tint (last); `half_doubt` and `wash_doubt` (3,) in L*, a*, b*
    for want of paint of about that depth (k = 1)."""

    depth: Floats
    xyz: Floats
    masstone: ZoneColour
    masstone_depth: float
    half_xyz: Floats
    wash_xyz: Floats
    gradient_ends_at: float | None
    by_place: bool
    half_doubt: Floats = field(default_factory=lambda: np.zeros(3))
    wash_doubt: Floats = field(default_factory=lambda: np.zeros(3))
    u_half: float = 0.0
    u_half_lab: Floats = field(default_factory=lambda: np.zeros(3))
    u_wash: float = 0.0
    u_wash_lab: Floats = field(default_factory=lambda: np.zeros(3))

    @property
    def wash_lab(self) -> Floats:
        return xyz_to_lab(self.wash_xyz)

    def u_lab_at(self, depth: float) -> Floats:
        """Standard uncertainty (3,) of L*, a*, b* at a tint depth, between those of wash, half tint and masstone."""
        known = np.stack([self.u_wash_lab, self.u_half_lab, self.masstone.u_lab])
        places = self.masstone_depth * np.array([WASH_SHARE, HALF_SHARE, 1.0])
        return np.array([np.interp(depth, places, known[:, c]) for c in range(3)])


@dataclass(frozen=True, slots=True, kw_only=True)
class HueShift:
    """Degrees from masstone to wash, + anticlockwise; `delta_big_h` in ΔE units; `travel` in degrees."""

    delta_h: float
    delta_big_h: float
    delta_big_h_u: float
    travel: float
    travel_u: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueRange:
    masstone_l: float
    wash_l: float
    span_l: float
    reach: float
    reach_u: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Flare:
    """A sudden mid-tone: how far off its neighbours in ΔE*ab, with its `u`, at what depth."""

    delta_e: float
    u: float
    depth: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ChromaPeak:
    """The largest chroma between masstone and wash, with its `u`, and the depth where it lies."""

    chroma: float
    u: float
    depth: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DilutionShift:
    """The hue shift in degrees that dilution alone would give, with its `u`."""

    delta_h: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class HalfLight:
    """The paint `fraction` that takes half of the paper's light, and its `u`; `relative` is how many times less that is than what
    the paint needs that the card names as reference, with `relative_u`."""

    fraction: float
    u: float
    relative: float | None = None
    relative_u: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Strength:
    """Slope of K/S against the paint fraction in one `channel` of X, Y, Z, from so many `steps`; `relative` to the slope of
    the paint that the card names as reference. `half_light` in the same channel, None where no step takes as much."""

    slope: float
    channel: str
    steps: int
    u: float
    relative: float | None = None
    relative_u: float | None = None
    half_light: HalfLight | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """A change of colour; `delta_h` in degrees, None where one of both is grey; `u` in CIEDE2000."""

    delta_l: float
    delta_c: float
    delta_h: float | None
    delta_e00: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Drying:
    """From wet to dry at both ends of the path; `u` in CIEDE2000 holds for both."""

    masstone: Shift
    wash: Shift
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Fading:
    """Exposed against covered: `delta_l` positive where the light made it paler."""

    delta_e_ab: float
    delta_e00: float
    delta_l: float
    hours: float
    category: str
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Gradient:
    """`unevenness` RMS in depth about the falling trend; `backruns` closed ridges and how far they stand out, in depth."""

    unevenness: float
    u: float
    backruns: int
    backrun_strength: float
    backrun_strength_u: float
