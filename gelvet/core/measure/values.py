"""The measured quantities as frozen values. What could not be measured is an `Absent` with its reason."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask, channel_maximum
from gelvet.core.colour.spaces import WHITE_D50, lab_to_lch, xyz_to_lab


@dataclass(frozen=True, slots=True)
class Absent:
    """Why a quantity has no figures: one plain sentence without a full stop."""

    reason: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneColour:
    """Colour of one zone: mean XYZ (3,), D50; spread `sd` (3,) of L*, a*, b*; `u` k = 1 in CIEDE2000; `u_lab` (3,)."""

    xyz: Floats
    sd: Floats
    u: float
    u_lab: Floats
    u_spatial: float
    used_fraction: float

    @property
    def lab(self) -> Floats:
        return xyz_to_lab(self.xyz)

    @property
    def lch(self) -> Floats:
        return lab_to_lch(self.lab)

    def relative_to(self, paper: Floats) -> Floats:
        """L*a*b* with the bare paper (3,) as white."""
        return xyz_to_lab(self.xyz / paper * WHITE_D50)


@dataclass(frozen=True, slots=True, kw_only=True)
class ZonePixels:
    """Rectified XYZ (h, w, 3) float32 of a zone with `good` (h, w) marking what is measured."""

    xyz: Floats
    good: Mask
    pixels_per_mm: float

    @property
    def used_fraction(self) -> float:
        return float(self.good.mean())


@dataclass(frozen=True, slots=True, kw_only=True)
class DilutionPath:
    """Depth (n,) and mean XYZ (n, 3) from masstone (first) to the palest tint (last)."""

    depth: Floats
    xyz: Floats
    masstone: ZoneColour
    masstone_depth: float
    half_xyz: Floats
    wash_xyz: Floats
    gradient_ends_at: float | None
    by_place: bool
    u_half: float = 0.0
    u_wash: float = 0.0

    @property
    def wash_lab(self) -> Floats:
        return xyz_to_lab(self.wash_xyz)


@dataclass(frozen=True, slots=True, kw_only=True)
class HueShift:
    """Degrees from masstone to wash, + anticlockwise; `delta_big_h` in ΔE units; `travel` in degrees."""

    delta_h: float
    delta_big_h: float
    travel: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueRange:
    masstone_l: float
    wash_l: float
    span_l: float
    reach: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Granulation:
    """Figures of measurement.md 4; `index` and `mottle` in L*, `grain_mm` a full width at half height."""

    index: float
    grain_mm: float | None
    mottle: float | None
    fine: float | None
    anisotropy: float
    anisotropy_deg: float | None
    brush_marks: bool
    skew: float
    u: float
    grain_u: float | None
    blur_mm: float
    gain: float
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Hiding:
    veil: float
    contrast_ratio: float
    hiding: float
    transparency: str
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Lifting:
    removed: float
    residual_de00: float
    staining: str
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SwatchMeasures:
    path: DilutionPath | Absent
    hue_shift: HueShift | Absent
    value_range: ValueRange | Absent
    granulation: Granulation | Absent
    hiding: Hiding | Absent
    lifting: Lifting | Absent


def nothing_measured(reason: Absent) -> SwatchMeasures:
    """Every quantity absent for one reason."""
    return SwatchMeasures(path=reason, hue_shift=reason, value_range=reason, granulation=reason, hiding=reason, lifting=reason)


def tint_depth(xyz: Floats, paper: Floats) -> Floats:
    """D (...) = max over X, Y, Z of log10(paper / paint); 0 for paper (measurement.md 3)."""
    ratio = paper.astype(xyz.dtype) / np.maximum(xyz, 1e-3)
    return np.asarray(np.log10(channel_maximum(ratio)))
