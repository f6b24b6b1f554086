"""The quantities of a swatch as frozen values, in the order of the measuring."""

from dataclasses import dataclass, fields

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.values import Absent, ZoneColour


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
class GrainAt:
    """Granulation index in L* at one tint depth, and the kind of zone it was seen on."""

    depth: float
    index: float
    u: float
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Granulation:
    """Figures of measurement.md 4; `index` and `mottle` in L*, `grain_mm` a full width at half height.

    `arms_length` is the unevenness in L* that an eye sees from 60 cm; `spectrum` (n, 3) frequency in cycles/mm and the SD in
    L* of each ring of it, of the wash and of the paper under it; `by_depth` the index elsewhere on the swatch."""

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
    arms_length: float
    spectrum: Floats
    by_depth: tuple[GrainAt, ...] = ()
    tooth_correlation: float | None = None
    # As the index would be if the flat shot's shading were all of the hollows.
    shaded_index: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Hiding:
    """`transmits` is the largest share of light through the layer and back; `glinting_veil` the veil with the light of the
    glints; `wash` the same of a wash over and beside the line."""

    veil: float
    contrast_ratio: float
    hiding: float
    transparency: str | None
    u: float
    transmits: float
    glinting_veil: float | None = None
    wash: "Hiding | None" = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Lifting:
    """`residue_hue` in degrees, None where the residue is grey; `residue_component` which of the separation's components
    most of it is (0 or 1), `residue_share` how much; `glints` per cm² that stayed; `damage` rise of the paper's roughness
    under low lamps, as a share. `before` says that the same place was captured before it was lifted."""

    removed: float
    residual_de00: float | None
    staining: str | None
    u: float
    before: bool = False
    residue_hue: float | None = None
    residue_component: int | None = None
    residue_share: float | None = None
    glints: float | None = None
    damage: float | None = None


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
class Tooth:
    """Correlation of tint depth with the paper's hollows: + settling, about 0 clumping that ignores the paper; and of tint depth with
    how the paper is shaded in the flat shot, `with_shading`, which is less where that shading is not of the hollows."""

    correlation: float
    u: float
    with_shading: float
    with_shading_u: float


@dataclass(frozen=True, slots=True)
class PaperShading:
    """Correlation with the hollows of how bare paper is shaded in the flat shot: 1 in light from all sides, about 0 in light from one,
    which shades slopes."""

    in_hollows: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Strength:
    """Slope of K/S against the paint fraction in one `channel` of X, Y, Z, from so many `steps`; `relative` to the slope of
    the paint that the card names as reference."""

    slope: float
    channel: str
    steps: int
    u: float
    relative: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GlazeStep:
    """What the layer numbered `layers` changed: L*a*b* (3,) after it, changes a layer; `u` in L*. `disturbance` is what its depth
    is more uneven by than the first layer's, as a share of it: layers that lie on each other untouched even out."""

    layers: int
    lab: Floats
    delta_l: float
    delta_c: float
    delta_h: float | None
    u: float
    disturbance: float | None = None
    disturbance_u: float = 0.0


@dataclass(frozen=True, slots=True)
class LayersOverInk:
    """Hiding after so many `layers`."""

    layers: int
    hiding: "Hiding"


@dataclass(frozen=True, slots=True, kw_only=True)
class Glaze:
    steps: tuple[GlazeStep, ...]
    stops_deepening_at: int | None
    hiding: tuple[LayersOverInk, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Gradient:
    """`unevenness` RMS in depth about the falling trend; `backruns` closed ridges and how far they stand out, in depth."""

    unevenness: float
    backruns: int
    backrun_strength: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Flare:
    """A sudden mid-tone: how far off its neighbours in ΔE*ab, at what depth."""

    delta_e: float
    depth: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """A change of colour; `delta_h` in degrees, None where one of both is grey."""

    delta_l: float
    delta_c: float
    delta_h: float | None
    delta_e00: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Drying:
    """From wet to dry at both ends of the path; `u` in CIEDE2000."""

    masstone: Shift
    wash: Shift
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """One pigment of a mixture alone: mean XYZ (3,) of what lies of it in the zone, and its share of the density; `tooth` is
    the correlation of its amount with the paper's hollows, None where no low lamps tell."""

    xyz: Floats
    share: float
    tooth: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Separation:
    """`index` in ΔE*ab off the path; two `components`, or none where one explains what is seen."""

    index: float
    components: tuple[Component, ...]
    u: float


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Sparkle:
    """Glints per cm², their summed energy in mm² per cm² and their share of the area, each the mean of the shots; `heavy`, `light`
    and `on_black` are densities in masstone, in wash and on black paper, `hue` that of the glints' own light."""

    density: float
    strength: float
    coverage: float
    u: float
    strength_u: float
    heavy: float | None
    light: float | None
    on_black: float | None
    hue: float | None
    clipped: bool
    shots: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheen:
    """`hue_travel` in degrees between the two lights that differ most; `claimed` False where the change is too small to say;
    `on_black` the same of the paint on black paper, where the card has some."""

    delta_e00: float
    hue_travel: float | None
    claimed: bool
    shots: int
    on_black: "Sheen | None" = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperRelief:
    """RMS slope of bare paper in one direction, rise over run, in 0.4 to 3 cycles/mm."""

    slope: float
    u: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SwatchMeasures:
    path: DilutionPath | Absent
    hue_shift: HueShift | Absent
    value_range: ValueRange | Absent
    granulation: Granulation | Absent
    hiding: Hiding | Absent
    lifting: Lifting | Absent
    fading: Fading | Absent
    tooth: Tooth | Absent
    strength: Strength | Absent
    glaze: Glaze | Absent
    gradient: Gradient | Absent
    drying: Drying | Absent
    separation: Separation | Absent
    sparkle: Sparkle | Absent
    sheen: Sheen | Absent
    wet_drop: WetDrop | Absent
    water_drop: WaterDrop | Absent
    tilt: Tilt | Absent
    effects: tuple[Effect, ...] | Absent


def nothing_measured(reason: Absent) -> SwatchMeasures:
    """Every quantity absent for one reason."""
    return SwatchMeasures(**{field.name: reason for field in fields(SwatchMeasures)})
