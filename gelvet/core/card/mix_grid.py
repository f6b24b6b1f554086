"""Builds mixing cards: paints down the side, partners along the head, a mix in every cell."""

from dataclasses import dataclass

from gelvet.core.card.builder import SwatchLabel, swatches_of
from gelvet.core.card.furniture import FOOT_MM, SIDE_MM, TOP_MM, code_rect, patches, tags
from gelvet.core.card.layout import Layout, Rect, Zone
from gelvet.core.card.sheets import sheet_size
from gelvet.core.errors import LayoutError

# Share of the row's paint in a mix, by row, where one paint meets its partners in several proportions.
PROPORTIONS = (0.75, 0.5, 0.25)
LEAST_CELL_MM = (10.0, 9.0)
_MOST_CELL_MM = (24.0, 22.0)
_SIDE_HEAD_MM = 24.0
_GAP_MM = 2.0
_HEAD_TEXT_MM = 4.5


@dataclass(frozen=True, slots=True)
class GridRow:
    """`paint` counts into the labels of the card's rows; `share` is that paint's part of each mix in the row."""

    paint: int
    share: float


def grid_rows(paints: int) -> list[GridRow]:
    """One paint meets its partners in several proportions, several meet them half and half."""
    return [GridRow(0, share) for share in PROPORTIONS] if paints == 1 else [GridRow(i, 0.5) for i in range(paints)]


def grid_columns(sheet: str, rows: int) -> int:
    """How many partners a grid of `rows` bears on the sheet; raises LayoutError where the rows are too many."""
    width, height = sheet_size(sheet)
    if (height - TOP_MM - FOOT_MM - _HEAD_TEXT_MM) / (rows + 1) < LEAST_CELL_MM[1] + _GAP_MM:
        raise LayoutError(f"A mixing grid of {rows} rows does not fit on {sheet}; use a larger sheet or fewer paints.")
    return int((width - 2 * SIDE_MM - _SIDE_HEAD_MM) // (LEAST_CELL_MM[0] + _GAP_MM))


def build_mix_card(card_id: str, sheet: str, paints: list[SwatchLabel], partners: list[SwatchLabel]) -> Layout:
    """Swatches S1 … are the paints, then the partners; each mix zone names its parts by swatch. Raises LayoutError."""
    if not paints or not partners:
        raise LayoutError("A mixing card needs at least one paint and one partner.")
    rows = grid_rows(len(paints))
    if len(partners) > grid_columns(sheet, len(rows)):
        raise LayoutError(
            f"A mixing grid on {sheet} bears {grid_columns(sheet, len(rows))} partners and {len(partners)} were asked for; "
            "use more cards or a larger sheet."
        )
    width, height = sheet_size(sheet)
    across = min(_MOST_CELL_MM[0], (width - 2 * SIDE_MM - _SIDE_HEAD_MM) / len(partners) - _GAP_MM)
    down = min(_MOST_CELL_MM[1], (height - TOP_MM - FOOT_MM - _HEAD_TEXT_MM) / (len(rows) + 1) - _GAP_MM)
    left, top = SIDE_MM + _SIDE_HEAD_MM, TOP_MM + _HEAD_TEXT_MM

    def cell(column: int, row: int) -> Rect:
        return Rect(left + column * (across + _GAP_MM), top + row * (down + _GAP_MM), across, down)

    zones = [Zone(id="grid.paper", kind="paper", rect=Rect(SIDE_MM, top, _SIDE_HEAD_MM - 3, down))]
    heads = []
    for column, partner in enumerate(partners):
        swatch = f"S{len(paints) + column + 1}"
        place = cell(column, 0)
        zones.append(Zone(id=f"{swatch}.masstone", kind="masstone", swatch=swatch, rect=place))
        heads.append({"text": f"{swatch} {partner.name}", "rect_mm": Rect(place.x, place.y - _HEAD_TEXT_MM, across, 3.6).as_list()})
    drawn: set[int] = set()
    for line, row in enumerate(rows, start=1):
        own = f"S{row.paint + 1}"
        side = Rect(SIDE_MM, cell(0, line).y, _SIDE_HEAD_MM - 3, down)
        if row.paint not in drawn:
            drawn.add(row.paint)
            zones.append(
                Zone(
                    id=f"{own}.masstone",
                    kind="masstone",
                    swatch=own,
                    rect=Rect(side.x, side.y + 3.2, side.width, side.height - 3.2),
                )
            )
        words = f"{own} {paints[row.paint].name}" if len(paints) > 1 else f"{row.share * 100:.0f} % {paints[0].name}"
        heads.append({"text": words, "rect_mm": Rect(side.x, side.y - 0.6, side.width, 3.2).as_list()})
        for column in range(len(partners)):
            other = f"S{len(paints) + column + 1}"
            parts = [[own, row.share], [other, round(1 - row.share, 4)]]
            zones.append(Zone(id=f"M{line}-{column + 1}", kind="mix", rect=cell(column, line), extra={"parts": parts}))
    return Layout(
        card_id=card_id,
        size_mm=(width, height),
        tags=tags(width, height),
        patches=patches(width),
        zones=tuple(zones),
        swatches=swatches_of([*paints, *partners]),
        extra={"sheet": sheet, "code": {"kind": "qr", "rect_mm": code_rect(width).as_list()}, "heads": heads},
    ).as_written()
