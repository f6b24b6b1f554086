"""What every card carries besides its swatches: fiducial tags, the reference target, the code, the ruler."""

from functools import cache

from gelvet.core.card.layout import Patch, Rect, Tag

TAG_MM = 10.0
PATCH_MM = 6.0
PATCH_PITCH_MM = 6.4
PATCH_COLUMNS = 19
PATCH_ROWS = 2
CODE_MM = 11.0
# The band at the head and the foot of the card that furniture takes.
TOP_MM = 19.0
FOOT_MM = 18.0
SIDE_MM = 7.0
_PATCHES_FROM_MM = 19.0


@cache
def tags(width: float, height: float) -> tuple[Tag, ...]:
    """Ids 0 to 3 in the corners, clockwise from top-left; the others along the edges."""
    inset = 9.0
    places = [
        (inset, inset), (width - inset, inset), (width - inset, height - inset), (inset, height - inset),
        (width * 0.36, height - inset), (width * 0.64, height - inset), (width - 25.0, inset),
    ]  # fmt: skip
    return tuple(Tag(id=i, centre_mm=place, size_mm=TAG_MM) for i, place in enumerate(places))


@cache
def patches(width: float) -> tuple[Patch, ...]:
    """Two rows, A1 … and B1 …, as many as fit before the code. Their colours are not known here: a CGATS file knows."""
    columns = min(PATCH_COLUMNS, int((code_rect(width).x - 1 - _PATCHES_FROM_MM) // PATCH_PITCH_MM))
    return tuple(
        Patch(
            id=f"{'AB'[row]}{column + 1}",
            rect=Rect(_PATCHES_FROM_MM + column * PATCH_PITCH_MM, 3.2 + row * PATCH_PITCH_MM, PATCH_MM, PATCH_MM),
        )
        for row in range(PATCH_ROWS)
        for column in range(columns)
    )


def code_rect(width: float) -> Rect:
    """Where the card code is printed."""
    return Rect(width - 49.0, 3.5, CODE_MM, CODE_MM)


def ruler_rect(width: float, height: float) -> Rect:
    """Where the ruler is printed, to check the printer's scale: 40 mm, shorter where a tag is in its way."""
    room = width * 0.36 - TAG_MM / 2 - 2 - 20.0
    return Rect(20.0, height - 12.0, 40.0 if room >= 40 else 20.0, 5.0)
