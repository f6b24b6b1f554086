"""What a layer of paint hides, gives up and does to the layer below, as frozen values."""

from dataclasses import dataclass

from gelvet.core.arrays import Floats
from gelvet.core.measure.values import Figure


@dataclass(frozen=True, slots=True, kw_only=True)
class Hiding:
    """`transmits` is the largest share of light through the layer and back; `glinting_veil` the veil with the light of the
    glints; `wash` the same of a wash over and beside the line."""

    veil: float
    contrast_ratio: float
    contrast_ratio_u: float
    hiding: float
    hiding_u: float
    transparency: str | None
    u: float
    transmits: float
    transmits_u: float
    glinting_veil: Figure | None = None
    wash: "Hiding | None" = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Lifting:
    """`residue_hue` in degrees, None where the residue is grey; `residue_component` which of the separation's components (0 or 1)
    stays more than the other, `residue_share` its share of the residue and `residue_share_before` of the paint, both known to
    `residue_share_u`, None where both stay alike; `glints` per cm² that stayed; `damage` rise of the paper's roughness under low lamps,
    as a share. `before` says that the same place was captured before it was lifted."""

    removed: float
    u: float
    residual_de00: Figure | None
    staining: str | None
    before: bool = False
    residue_hue: Figure | None = None
    residue_component: int | None = None
    residue_share: float | None = None
    residue_share_before: float | None = None
    residue_share_u: float | None = None
    glints: Figure | None = None
    damage: Figure | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GlazeStep:
    """What the layer numbered `layers` changed: L*a*b* (3,) after it, changes a layer; `u` of those of lightness and chroma, `delta_h_u`
    in degrees. `disturbance` is what its depth is more uneven by than the first layer's, as a share of it: layers that lie on each
    other untouched even out."""

    layers: int
    lab: Floats
    delta_l: float
    delta_c: float
    delta_h: float | None
    delta_h_u: float | None
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
