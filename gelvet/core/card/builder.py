"""Builds cards of rows: one row for each swatch, with a block of zones for each test, on as many lines as the blocks need."""

from dataclasses import dataclass
from itertools import groupby

from gelvet.core.card.blocks import APPLICATIONS, TESTS
from gelvet.core.card.furniture import FOOT_MM, SIDE_MM, TOP_MM, code_rect, patches, tags
from gelvet.core.card.layout import Layout, Rect, Swatch, Zone
from gelvet.core.card.lines import Line, in_lines, wanted_mm
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
    lines = int((height - TOP_MM - FOOT_MM) // (COMFORTABLE_ROW_MM if comfortable else MINIMUM_ROW_MM))
    row = _row(design, width)
    if len(row) > int((height - TOP_MM - FOOT_MM) // MINIMUM_ROW_MM):
        raise LayoutError(f"These tests need {len(row)} lines, more than an {sheet} card holds; use a larger sheet or fewer tests.")
    return lines // len(row) * _columns(width, row)


def build_card(card_id: str, sheet: str, labels: list[SwatchLabel], design: Design = STANDARD) -> Layout:
    """A card of `sheet` with a row for each label; raises LayoutError."""
    width, height = sheet_size(sheet)
    if not labels:
        raise LayoutError("A card needs at least one swatch; choose a paint first.")
    if len(labels) > capacity(sheet, design):
        raise LayoutError(
            f"An {sheet} card holds {capacity(sheet, design)} swatches and {len(labels)} were asked for; use more cards or a larger sheet."
        )
    row = _row(design, width)
    columns = _columns(width, row)
    rows = -(-len(labels) // columns)
    line_mm = min(MAXIMUM_ROW_MM, (height - TOP_MM - FOOT_MM) / (rows * len(row)))
    column_mm = (width - 2 * SIDE_MM - (columns - 1) * _BETWEEN_COLUMNS_MM) / columns
    zones: list[Zone] = []
    for index in range(len(labels)):
        column, place = divmod(index, rows)
        left = SIDE_MM + column * (column_mm + _BETWEEN_COLUMNS_MM)
        for n, line in enumerate(row):
            zones += _line_zones(f"S{index + 1}", line, left, column_mm, TOP_MM + (place * len(row) + n) * line_mm, line_mm)
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
            **({"windows": _windows(zones)} if design.framed else {}),
        },
    ).as_written()


def swatches_of(labels: list[SwatchLabel]) -> tuple[Swatch, ...]:
    """S1, S2, … in the order of `labels`."""
    return tuple(
        Swatch(id=f"S{i + 1}", label=label.text, extra={"paint": label.reference} if label.reference else {})
        for i, label in enumerate(labels)
    )


def _row(design: Design, width: float) -> tuple[Line, ...]:
    """The row's zones from left to right, line by line; raises LayoutError for an unknown application or test, and where one
    block alone is too wide."""
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
    return in_lines([APPLICATIONS[design.application], *chosen], width - 2 * SIDE_MM)


def _columns(width: float, row: tuple[Line, ...]) -> int:
    """Columns of rows at their comfortable width; one where even that must shrink, or where rows have several lines."""
    usable = width - 2 * SIDE_MM
    if len(row) > 1:
        return 1
    return max(1, int((usable + _BETWEEN_COLUMNS_MM) // (wanted_mm(row[0]) + _BETWEEN_COLUMNS_MM)))


def _line_zones(swatch: str, line: Line, left: float, room: float, top: float, line_mm: float) -> list[Zone]:
    height = line_mm - LABEL_MM - 1.4
    y = top + LABEL_MM
    wanted, least = sum(z.width for z in line), sum(z.least for z in line)
    gaps = sum(z.gap for z in line)
    # Zones give way in proportion to what they can spare.
    spared = 0.0 if wanted + gaps <= room else (wanted + gaps - room) / (wanted - least)
    x = left
    zones = []
    for item in line:
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


def _windows(zones: list[Zone]) -> list[list[float]]:
    """One opening a line, a little larger than its zones."""
    found = []
    for _, group in groupby(zones, key=lambda z: (z.id.split(".")[0], z.rect.y)):
        rects = [z.rect for z in group]
        left, right = min(r.x for r in rects) - 1.5, max(r.right for r in rects) + 1.5
        # Close under the labels, which stay on the frame.
        found.append(Rect(left, rects[0].y - 0.4, right - left, rects[0].height + 1.4).as_list())
    return found
