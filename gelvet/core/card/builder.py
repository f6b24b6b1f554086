"""Builds cards of rows: one row for each swatch, with a block of zones for each test."""

from dataclasses import dataclass

from gelvet.core.card.blocks import APPLICATIONS, BARE_PAPER, TESTS, BlockZone
from gelvet.core.card.furniture import FOOT_MM, SIDE_MM, TOP_MM, code_rect, patches, tags
from gelvet.core.card.layout import Layout, Rect, Swatch, Zone
from gelvet.core.card.sheets import sheet_size
from gelvet.core.errors import LayoutError

MINIMUM_ROW_MM = 18.0
# Lower rows leave too little height for the grain statistics.
COMFORTABLE_ROW_MM = 21.0
MAXIMUM_ROW_MM = 27.0
LABEL_MM = 3.6
_BETWEEN_COLUMNS_MM = 8.0


@dataclass(frozen=True, slots=True)
class SwatchLabel:
    """What is written on the card over a swatch's row."""

    name: str
    maker: str = ""
    pigments: tuple[str, ...] = ()
    reference: str = ""

    @property
    def text(self) -> str:
        parts = [self.name, self.maker, " ".join(self.pigments)]
        return " · ".join(p for p in parts if p)


@dataclass(frozen=True, slots=True)
class Design:
    """What each row holds. A framed card is a window mask, cut out and laid over swatches on other paper."""

    application: str = "stroke"
    tests: tuple[str, ...] = ("hiding", "lifting")
    framed: bool = False


STANDARD = Design()


def capacity(sheet: str, design: Design = STANDARD, *, comfortable: bool = False) -> int:
    """How many swatches the sheet holds; raises LayoutError for an unknown sheet or where not even one fits."""
    width, height = sheet_size(sheet)
    rows = int((height - TOP_MM - FOOT_MM) // (COMFORTABLE_ROW_MM if comfortable else MINIMUM_ROW_MM))
    return rows * _columns(width, _row(design))


def build_card(card_id: str, sheet: str, labels: list[SwatchLabel], design: Design = STANDARD) -> Layout:
    """A card of `sheet` with a row for each label; raises LayoutError."""
    width, height = sheet_size(sheet)
    if not labels:
        raise LayoutError("A card needs at least one swatch; choose a paint first.")
    if len(labels) > capacity(sheet, design):
        raise LayoutError(
            f"An {sheet} card holds {capacity(sheet, design)} swatches and {len(labels)} were asked for; use more cards or a larger sheet."
        )
    row = _row(design)
    columns = _columns(width, row)
    rows = -(-len(labels) // columns)
    row_mm = min(MAXIMUM_ROW_MM, (height - TOP_MM - FOOT_MM) / rows)
    column_mm = (width - 2 * SIDE_MM - (columns - 1) * _BETWEEN_COLUMNS_MM) / columns
    zones: list[Zone] = []
    for index in range(len(labels)):
        column, line = divmod(index, rows)
        left = SIDE_MM + column * (column_mm + _BETWEEN_COLUMNS_MM)
        zones += _row_zones(f"S{index + 1}", row, left, column_mm, TOP_MM + line * row_mm, row_mm)
    return Layout(
        card_id=card_id,
        size_mm=(width, height),
        tags=tags(width, height),
        patches=patches(width),
        zones=tuple(zones),
        swatches=swatches_of(labels),
        extra={
            "sheet": sheet,
            "code": {"kind": "qr", "rect_mm": code_rect(width).as_list()},
            **({"windows": _windows(zones, len(labels))} if design.framed else {}),
        },
    )


def swatches_of(labels: list[SwatchLabel]) -> tuple[Swatch, ...]:
    """S1, S2, … in the order of `labels`."""
    return tuple(
        Swatch(id=f"S{i + 1}", label=label.text, extra={"paint": label.reference} if label.reference else {})
        for i, label in enumerate(labels)
    )


def _row(design: Design) -> tuple[BlockZone, ...]:
    """The row's zones from left to right; raises LayoutError for an unknown application or test."""
    if design.application not in APPLICATIONS:
        raise LayoutError(f"There is no application named {design.application}; choose one of {', '.join(APPLICATIONS)}.")
    unknown = [t for t in design.tests if t not in TESTS]
    if unknown:
        raise LayoutError(f"There is no test named {unknown[0]}; choose from {', '.join(TESTS)}.")
    chosen = [block for name, block in TESTS.items() if name in design.tests]
    for block in chosen:
        lacking = [TESTS[other].title for other in block.needs if other not in design.tests]
        if lacking:
            raise LayoutError(f"The test “{block.title}” is judged by “{'” and “'.join(lacking)}” beside it; choose that too.")
    blocks = [APPLICATIONS[design.application], *chosen]
    return (BARE_PAPER, *(zone for block in blocks for zone in block.zones))


def _columns(width: float, row: tuple[BlockZone, ...]) -> int:
    """Columns of rows at their comfortable width; one where even that must shrink. Raises LayoutError."""
    usable = width - 2 * SIDE_MM
    if sum(z.least + z.gap for z in row) > usable:
        least = sum(z.least + z.gap for z in row) + 2 * SIDE_MM
        raise LayoutError(f"These tests need a card at least {least:.0f} mm wide; use a larger sheet or fewer tests.")
    comfortable = sum(z.width + z.gap for z in row)
    return max(1, int((usable + _BETWEEN_COLUMNS_MM) // (comfortable + _BETWEEN_COLUMNS_MM)))


def _row_zones(swatch: str, row: tuple[BlockZone, ...], left: float, room: float, top: float, row_mm: float) -> list[Zone]:
    height = row_mm - LABEL_MM - 1.4
    y = top + LABEL_MM
    wanted, least = sum(z.width for z in row), sum(z.least for z in row)
    gaps = sum(z.gap for z in row)
    # Zones give way in proportion to what they can spare.
    spared = 0.0 if wanted + gaps <= room else (wanted + gaps - room) / (wanted - least)
    x = left
    zones = []
    for item in row:
        x += item.gap
        width = item.width - spared * (item.width - item.least)
        owner = None if item.kind == "paper" else swatch
        zones.append(
            Zone(
                id=f"{swatch}.{item.suffix}", kind=item.kind, swatch=owner, rect=Rect(x, y, width, height), axis=item.axis,
                extra=dict(item.extra),
            )
        )  # fmt: skip
        x += width
    return zones


def _windows(zones: list[Zone], swatches: int) -> list[list[float]]:
    """One opening a row, a little larger than its zones."""
    found = []
    for index in range(swatches):
        rects = [z.rect for z in zones if z.id.startswith(f"S{index + 1}.")]
        left, right = min(r.x for r in rects) - 1.5, max(r.right for r in rects) + 1.5
        # Close under the labels, which stay on the frame.
        found.append(Rect(left, rects[0].y - 0.4, right - left, rects[0].height + 1.4).as_list())
    return found
