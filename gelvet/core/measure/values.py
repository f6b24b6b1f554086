"""What is measured before any quantity: a zone's pixels and colour, tint depth; and `Absent`, the reason where there is none."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats, Mask
from gelvet.core.colour.density import greatest_density
from gelvet.core.colour.spaces import WHITE_D50, lab_to_lch, xyz_to_lab

# Fewer pixels than these say nothing of a zone.
MINIMUM_PIXELS = 60


@dataclass(frozen=True, slots=True)
class Absent:
    """Why a quantity has no figures: one plain sentence without a full stop."""

    reason: str


@dataclass(frozen=True, slots=True)
class Figure:
    """One number, and its standard uncertainty (k = 1) in the same unit."""

    value: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ZoneColour:
    """Colour of one zone: mean XYZ (3,), D50; spread `sd` (3,) of L*, a*, b*; `u` k = 1 in CIEDE2000; `u_lab` (3,).

    `beyond_gamut` is how far, in ΔE*ab, it lies outside the colours that the reference patches enclose; 0 inside."""

    xyz: Floats
    sd: Floats
    u: float
    u_lab: Floats
    u_spatial: float
    used_fraction: float
    beyond_gamut: float = 0.0

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


def tint_depth(xyz: Floats, paper: Floats) -> Floats:
    """D (...) = max over X, Y, Z of log10(paper / paint); 0 for paper (measurement.md 3)."""
    return greatest_density(xyz, paper, 1e-3)
