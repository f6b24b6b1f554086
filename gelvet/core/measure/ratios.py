"""What may be said of a capture whose colours mean nothing: shares of light inside it, and no more (measurement.md 1.5)."""

from dataclasses import replace

from gelvet.core.measure.quantities.layers import Hiding, Lifting
from gelvet.core.measure.quantities.swatch import SwatchMeasures, nothing_measured
from gelvet.core.measure.values import Absent

COLOURLESS = Absent("no reference values and no profile: this capture gives ratios only, no colours")
UNKNOWN_ENCODING = Absent("no reference values, and the file does not say how its values are meant: nothing can be told from it")


def only_ratios(measures: SwatchMeasures) -> SwatchMeasures:
    """Hiding and lifting as ratios, without colours, nor their classes, whose limits were set on true colours; the rest absent."""
    hiding, lifting = measures.hiding, measures.lifting
    return replace(
        nothing_measured(COLOURLESS),
        hiding=replace(hiding, transparency=None) if isinstance(hiding, Hiding) else hiding,
        lifting=replace(lifting, residual_de00=None, residue_hue=None, staining=None) if isinstance(lifting, Lifting) else lifting,
    )
