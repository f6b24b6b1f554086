"""Builds the standard cards: a row for each paint with every zone that the slice of tests needs."""

from dataclasses import dataclass

from gelvet.core.card.layout import Axis, Layout, Patch, Rect, Swatch, Tag, Zone
from gelvet.core.errors import LayoutError

TAG_MM = 10.0
PATCH_MM = 6.0
PATCH_PITCH_MM = 6.4
PATCH_COLUMNS = 19
PATCH_ROWS = 2
TOP_MM = 19.0
FOOT_MM = 18.0
CODE_MM = 11.0
MINIMUM_ROW_MM = 18.0
MAXIMUM_ROW_MM = 27.0
LABEL_MM = 3.6

SHEETS_MM: dict[str, tuple[float, float]] = {"A5": (210.0, 148.0), "A4": (210.0, 297.0)}

# The row's zones from left to right: kind, width in mm and the gap before it.
_ROW: tuple[tuple[str, float, float], ...] = (
    ("paper", 9.0, 0.0),
    ("masstone", 16.0, 3.0),
    ("gradient", 60.0, 1.0),
    ("wash", 32.0, 1.0),
    ("ink", 7.0, 4.0),
    ("over_ink", 9.0, 0.0),
    ("beside_ink", 9.0, 1.0),
    ("unlifted", 15.0, 3.0),
    ("lifted", 15.0, 1.0),
)


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


def capacity(sheet: str) -> int:
    """How many swatches the sheet holds."""
    return int((SHEETS_MM[sheet][1] - TOP_MM - FOOT_MM) // MINIMUM_ROW_MM)


def build_card(card_id: str, sheet: str, labels: list[SwatchLabel]) -> Layout:
    """A card of `sheet` ("A5" landscape, "A4" upright) with a row for each label; raises LayoutError."""
    if sheet not in SHEETS_MM:
        raise LayoutError(f"There is no sheet named {sheet}; choose one of {', '.join(SHEETS_MM)}.")
    if not labels:
        raise LayoutError("A card needs at least one swatch; choose a paint first.")
    if len(labels) > capacity(sheet):
        raise LayoutError(
            f"An {sheet} card holds {capacity(sheet)} swatches and {len(labels)} were asked for; use more cards or a larger sheet."
        )
    width, height = SHEETS_MM[sheet]
    row_mm = min(MAXIMUM_ROW_MM, (height - TOP_MM - FOOT_MM) / len(labels))
    zones: list[Zone] = []
    for index in range(len(labels)):
        zones += _row_zones(f"S{index + 1}", TOP_MM + index * row_mm, row_mm)
    return Layout(
        card_id=card_id,
        size_mm=(width, height),
        tags=_tags(width, height),
        patches=_patches(),
        zones=tuple(zones),
        swatches=tuple(
            Swatch(id=f"S{i + 1}", label=label.text, extra={"paint": label.reference} if label.reference else {})
            for i, label in enumerate(labels)
        ),
        extra={"sheet": sheet, "code": {"kind": "qr", "rect_mm": code_rect(width).as_list()}},
    )


def _row_zones(swatch: str, top: float, row_mm: float) -> list[Zone]:
    height = row_mm - LABEL_MM - 1.4
    y = top + LABEL_MM
    x = 7.0
    zones = []
    for kind, width, gap in _ROW:
        x += gap
        axis: Axis | None = "+x" if kind == "gradient" else None
        owner = None if kind == "paper" else swatch
        zones.append(Zone(id=f"{swatch}.{kind}", kind=kind, swatch=owner, rect=Rect(x, y, width, height), axis=axis))
        x += width
    return zones


def _tags(width: float, height: float) -> tuple[Tag, ...]:
    """Ids 0 to 3 in the corners, clockwise from top-left; the others along the edges."""
    inset = 9.0
    places = [
        (inset, inset), (width - inset, inset), (width - inset, height - inset), (inset, height - inset),
        (width * 0.36, height - inset), (width * 0.64, height - inset), (width - 25.0, inset),
    ]  # fmt: skip
    return tuple(Tag(id=i, centre_mm=place, size_mm=TAG_MM) for i, place in enumerate(places))


def _patches() -> tuple[Patch, ...]:
    """Two rows: A1 … A19 and B1 … B19. The builder does not know their colours: a CGATS file does."""
    return tuple(
        Patch(id=f"{'AB'[row]}{column + 1}", rect=Rect(19 + column * PATCH_PITCH_MM, 3.2 + row * PATCH_PITCH_MM, PATCH_MM, PATCH_MM))
        for row in range(PATCH_ROWS)
        for column in range(PATCH_COLUMNS)
    )


def code_rect(width: float) -> Rect:
    """Where the card code is printed."""
    return Rect(width - 49.0, 3.5, CODE_MM, CODE_MM)


def ruler_rect(width: float, height: float) -> Rect:
    """Where the 40 mm ruler is printed, to check the printer's scale."""
    return Rect(20.0, height - 12.0, 40.0, 5.0)
