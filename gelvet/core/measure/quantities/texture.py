"""A swatch's texture as frozen values: grain, tooth, separation, sparkle and sheen."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats
from gelvet.core.measure.values import Figure


@dataclass(frozen=True, slots=True, kw_only=True)
class GrainAt:
    """Granulation index in L* at one tint depth, and the kind of zone it was seen on."""

    depth: float
    index: float
    u: float
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Granulation:
    """Figures of measurement.md 4; `index`, `mottle` (0.1 to 0.4 cycles/mm) and `fine` (3 to 5) in L*, `grain_mm` a full width at half
    height.

    `arms_length` is the unevenness in L* that an eye sees from 60 cm; `spectrum` (n, 3) frequency in cycles/mm and the SD in
    L* of each ring of it, of the wash and of the paper under it; `by_depth` the index elsewhere on the swatch."""

    index: float
    grain_mm: float | None
    mottle: float | None
    mottle_u: float | None
    fine: float | None
    fine_u: float | None
    anisotropy: float
    anisotropy_u: float
    anisotropy_deg: float | None
    brush_marks: bool
    skew: float
    skew_u: float
    u: float
    grain_u: float | None
    blur_mm: float
    gain: float
    where: str
    arms_length: float
    arms_length_u: float
    spectrum: Floats
    by_depth: tuple[GrainAt, ...] = ()
    tooth_correlation: float | None = None
    tooth_u: float | None = None
    # As the index would be if the flat shot's shading were all of the hollows.
    shaded_index: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Tooth:
    """Correlation of tint depth with the paper's hollows: + settling, about 0 clumping that ignores the paper; and of tint depth with
    how the paper is shaded in the flat shot, `with_shading`, which is less where that shading is not of the hollows."""

    correlation: float
    u: float
    with_shading: float
    with_shading_u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """One pigment of a mixture alone: mean XYZ (3,) of what lies of it in the zone, with `u` in CIEDE2000, and its share of the density
    with `share_u`; `tooth` is the correlation of its amount with the paper's hollows, None where no low lamps tell."""

    xyz: Floats
    u: float
    share: float
    share_u: float
    tooth: Figure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Separation:
    """`index` in ΔE*ab off the path; two `components`, or none where one explains what is seen; `mixed` is the share of the
    variance off the path that was taken off because blur makes it, None where it was not asked for."""

    index: float
    components: tuple[Component, ...]
    u: float
    mixed: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sparkle:
    """Glints per cm², their summed energy in mm² per cm² and their share of the area, each the mean of the shots; `heavy`, `light`
    and `on_black` are densities in masstone, in wash and on black paper, `hue` that of the glints' own light in degrees."""

    density: float
    u: float
    strength: float
    strength_u: float
    coverage: float
    coverage_u: float
    heavy: Figure | None
    light: Figure | None
    on_black: Figure | None
    hue: Figure | None
    clipped: bool
    shots: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheen:
    """`hue_travel` in degrees between the two lights that differ most, `u` of `delta_e00` (k = 1); `claimed` False where the change
    is too small to say; `on_black` the same of the paint on black paper, where the card has some."""

    delta_e00: float
    u: float
    hue_travel: float | None
    hue_travel_u: float | None
    claimed: bool
    shots: int
    on_black: "Sheen | None" = None
