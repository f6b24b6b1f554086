"""What a session takes: cards, time, paint and paper. Estimates for planning, rounded where they are shown."""

from collections.abc import Sequence
from dataclasses import dataclass

from gelvet.core.card.layout import Layout

# Millilitres of paint to a square centimetre: a heavy film is about 0.1 mm wet and a quarter of it paint from the tube.
_PAINT_ML_PER_CM2 = {"masstone": 0.0025, "gradient": 0.001, "mix": 0.0015, "over_ink": 0.0018, "beside_ink": 0.0018}
_OTHER_ML_PER_CM2 = 0.0006
# What stays in the palette and the brush.
_WASTE_ML_PER_SWATCH = 0.06
# Minutes of a practised hand: a swatch with its rinse, each further zone, each mix, each card's ink lines.
_SWATCH_MIN, _ZONE_MIN, _MIX_MIN, _CARD_MIN = 1.5, 0.4, 1.2, 4.0
DRYING_MIN = 45.0
_UNPAINTED = {"paper", "ink", "lifted"}


@dataclass(frozen=True, slots=True)
class Effort:
    """`minutes` at the bench, `waiting` in between; `paint_ml` of the whole session and `paper_m2`."""

    cards: int
    swatches: int
    minutes: int
    waiting: int
    paint_ml: float
    paper_m2: float


def effort(layouts: Sequence[Layout]) -> Effort:
    zones = [z for layout in layouts for z in layout.zones]
    swatches = sum(len(layout.swatches) for layout in layouts)
    painted = [z for z in zones if z.kind not in _UNPAINTED]
    mixes = sum(z.kind == "mix" for z in painted)
    millilitres = sum(_PAINT_ML_PER_CM2.get(z.kind, _OTHER_ML_PER_CM2) * z.rect.width * z.rect.height / 100 for z in painted)
    coats = max([int(z.extra.get("layers", 1)) for z in painted] + [int(any(z.kind == "lifted" for z in zones)) + 1], default=1)
    return Effort(
        cards=len(layouts),
        swatches=swatches,
        minutes=round(swatches * _SWATCH_MIN + mixes * _MIX_MIN + (len(painted) - mixes) * _ZONE_MIN + len(layouts) * _CARD_MIN),
        waiting=round(DRYING_MIN * coats) if layouts else 0,
        paint_ml=round(millilitres + swatches * _WASTE_ML_PER_SWATCH, 2),
        paper_m2=round(sum(layout.size_mm[0] * layout.size_mm[1] for layout in layouts) / 1e6, 3),
    )
