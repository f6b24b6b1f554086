"""Sheets without a printed card."""

from typing import Any, Literal

from ninja import Schema

from gelvet.core.loose_sheet.propose import Given

Point = tuple[float, float]


class SheetTakenInOut(Schema):
    card_id: str
    said: str


class GivenIn(Schema):
    """What a person says of the sheet; null where it is left to the picture and its file."""

    corners_px: tuple[Point, Point, Point, Point] | None = None
    size_mm: Point | None = None

    def given(self) -> Given:
        return Given(corners_px=self.corners_px, size_mm=self.size_mm)


class FoundOut(Schema):
    layout: dict[str, Any]
    said: str


class SheetIn(Schema):
    """The whole layout as it was corrected, and the paint of each swatch."""

    revision: int
    layout: dict[str, Any]
    paints: dict[str, int] = {}


class ViewIn(Schema):
    view: Literal["whole", "straight"] = "straight"
