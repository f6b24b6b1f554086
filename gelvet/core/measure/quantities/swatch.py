"""Every quantity of one swatch together."""

from dataclasses import dataclass, fields

from gelvet.core.measure.quantities.colour import DilutionPath, Drying, Fading, Gradient, HueShift, Strength, ValueRange
from gelvet.core.measure.quantities.layers import Glaze, Hiding, Lifting
from gelvet.core.measure.quantities.texture import Granulation, Separation, Sheen, Sparkle, Tooth
from gelvet.core.measure.quantities.water import Effect, Tilt, WaterDrop, WetDrop
from gelvet.core.measure.values import Absent


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
