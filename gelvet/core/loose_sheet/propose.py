"""A layout to start from: a zone for each painted place, bare paper beside it, and a scale where the file tells one."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.placing.corners import place_by_corners, whole_image
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Placement, Rect, Scale, Swatch, Zone
from gelvet.core.errors import LayoutError, NothingMeasurable
from gelvet.core.loose_sheet.found_swatches import find_swatches
from gelvet.core.loose_sheet.one_paint import PaintedPart, parts_of_paints
from gelvet.core.loose_sheet.paint_depth import SheetDepth, sheet_depth
from gelvet.core.loose_sheet.sheet_corners import find_corners

# Where nothing tells the size the longer side is taken for an A5 sheet's: lengths are then only relative.
ASSUMED_LONG_SIDE_MM = 210.0
# Scanners state 150 to 2400 dots an inch; other figures are what programs write when they know nothing.
_SCANNER_DPI = (150.0, 2400.0)
# Squares of paper: their sides, larger ones first, how clear of paint they lie, and how far their depth may be from 0, in SDs of
# paper too; what is as pale as the second may be a wash.
_PAPERS_MM, _CLEAR_MM = (8.0, 5.0), 1.5
_BARE = ((0.015, 3.0), (0.03, 4.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """What a person says of the sheet: its corners (4, 2) in pixels, its size in mm, or its pixels per mm."""

    corners_px: tuple[tuple[float, float], ...] | None = None
    size_mm: tuple[float, float] | None = None
    pixels_per_mm: float | None = None


def place_sheet(picture: Picture, given: Given) -> tuple[Placement, tuple[float, float]]:
    """Where the sheet lies and its size in mm: as given, else as the picture and its file tell. Where no corners are given
    or seen, the sheet is all of the image. Raises LayoutError for corners that are crossed."""
    height, width = picture.pixels.shape[:2]
    corners = given.corners_px or find_corners(picture) or whole_image(width, height)
    across, down = _sides(np.array(corners))
    pixels_per_mm, scale = _scale(picture, given, max(across, down))
    size_mm = given.size_mm or (round(across / pixels_per_mm, 3), round(down / pixels_per_mm, 3))
    placement = Placement(corners_px=corners, image_px=(width, height), scale=scale)
    if not placement.is_upright:
        raise LayoutError("The four corners do not go round the sheet clockwise from its top-left; pull them apart.")
    return placement, size_mm


NOTHING_GIVEN = Given()


def blank_layout(picture: Picture, card_id: str, given: Given = NOTHING_GIVEN) -> Layout:
    """A sheet on which nothing was found: a zone of paper in its middle, for a person to move and add to."""
    placement, (width, height) = place_sheet(picture, given)
    side = min(_PAPERS_MM[0], width / 4, height / 4)
    middle = Rect(width / 2 - side / 2, height / 2 - side / 2, side, side)
    zones = (Zone(id="paper.1", kind="paper", rect=middle),)
    return Layout(card_id=card_id, size_mm=(width, height), tags=(), patches=(), zones=zones, swatches=(), placement=placement)


def _sides(corners: Floats) -> tuple[float, float]:
    """Mean width and height in pixels of a quadrangle (4, 2)."""
    sides = np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)
    return float(sides[[0, 2]].mean()), float(sides[[1, 3]].mean())


def propose_layout(picture: Picture, card_id: str, given: Given = NOTHING_GIVEN) -> Layout:
    """The swatches found on the sheet as zones; raises NothingMeasurable where none is found."""
    placement, size_mm = place_sheet(picture, given)
    empty = Layout(card_id=card_id, size_mm=size_mm, tags=(), patches=(), zones=(), swatches=(), placement=placement)
    sheet = sheet_depth(picture, place_by_corners(placement, empty, picture.pixels.shape))
    found = find_swatches(sheet)
    if not found:
        raise NothingMeasurable(
            f"No swatches were found on light paper in {picture.source}; show the whole sheet in even light, or pull its corners."
        )
    paints = {f"S{number}": parts for number, parts in enumerate(parts_of_paints(found, sheet), 1)}
    zones = [_zone(name, part) for name, parts in paints.items() for part in parts]
    papers = _bare_paper(sheet, [s.rect for s in found])
    if not papers:
        raise NothingMeasurable(f"No bare paper was found between the swatches of {picture.source}; leave some beside them.")
    zones += [Zone(id=f"paper.{number}", kind="paper", rect=rect) for number, rect in enumerate(papers, 1)]
    return Layout(
        card_id=card_id, size_mm=size_mm, tags=(), patches=(), zones=tuple(zones), swatches=tuple(Swatch(id=n) for n in paints),
        placement=placement,
    )  # fmt: skip


def _scale(picture: Picture, given: Given, long_side_px: float) -> tuple[float, Scale]:
    """Pixels per mm, and what they rest on. A photograph's dots an inch mean nothing."""
    if given.size_mm is not None:
        return long_side_px / max(given.size_mm), "size"
    if given.pixels_per_mm is not None:
        return given.pixels_per_mm, "clicks"
    dpi = picture.stated_dpi
    if dpi is not None and _SCANNER_DPI[0] <= dpi <= _SCANNER_DPI[1] and "exposure_s" not in picture.provenance:
        return dpi / 25.4, "file"
    return long_side_px / ASSUMED_LONG_SIDE_MM, "unknown"


def _zone(name: str, part: PaintedPart) -> Zone:
    return Zone(id=f"{name}.{part.kind}", kind=part.kind, rect=part.place.rect, swatch=name, axis=part.place.axis)


def _bare_paper(sheet: SheetDepth, painted: list[Rect]) -> list[Rect]:
    """Squares of paper, one near each swatch where there is room, none of them twice."""
    import cv2

    smooth = np.abs(cv2.GaussianBlur(sheet.depth, (0, 0), 0.25 * sheet.pixels_per_mm))
    for least, noises in _BARE:
        bare = (smooth < max(least, noises * sheet.noise)) & sheet.shown
        for side_mm in _PAPERS_MM:
            chosen = _squares(bare, side_mm, sheet.pixels_per_mm, painted)
            if chosen:
                return chosen
    return []


def _squares(bare: Mask, side_mm: float, scale: float, painted: list[Rect]) -> list[Rect]:
    """The squares of `bare` (h, w) that lie nearest the swatches."""
    import cv2

    clear = max(3, round(side_mm * scale)) + round(2 * _CLEAR_MM * scale)
    # Samples around which a whole square, and a margin, is bare.
    room = cv2.erode(bare.astype(np.uint8), np.ones((clear, clear), np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0)
    step = max(1, round(0.5 * scale))
    rows, columns = (place * step for place in np.nonzero(room[::step, ::step]))
    chosen: list[Rect] = []
    if len(rows) == 0:
        return chosen
    centres = np.column_stack([columns, rows]) / scale
    for rect in painted:
        x, y = centres[int(np.argmin(_distance(centres, rect)))]
        square = Rect(float(x) - side_mm / 2, float(y) - side_mm / 2, side_mm, side_mm)
        if not any(square.intersects(other) for other in chosen):
            chosen.append(square)
    return chosen


def _distance(points: Floats, rect: Rect) -> Floats:
    """Distance (n,) of points (n, 2) from a rectangle."""
    x = np.maximum(np.maximum(rect.x - points[:, 0], points[:, 0] - rect.right), 0)
    y = np.maximum(np.maximum(rect.y - points[:, 1], points[:, 1] - rect.bottom), 0)
    return np.asarray(np.hypot(x, y))
