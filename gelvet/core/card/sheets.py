"""Paper formats that cards are printed on."""

import re

from gelvet.core.errors import LayoutError

# ISO 216, as they lie best under rows of swatches: A6, A5 and A3 on their side, A4 upright. Width, height in mm.
SHEETS_MM: dict[str, tuple[float, float]] = {"A6": (148.0, 105.0), "A5": (210.0, 148.0), "A4": (210.0, 297.0), "A3": (420.0, 297.0)}
_LEAST_MM, _MOST_MM = (120.0, 80.0), (900.0, 900.0)
_CUSTOM = re.compile(r"(\d{2,3}(?:[.,]\d)?)\s*[x×]\s*(\d{2,3}(?:[.,]\d)?)", re.IGNORECASE)


def sheet_size(sheet: str) -> tuple[float, float]:
    """Width and height in mm of a named sheet, or of one given as `WIDTHxHEIGHT`; raises LayoutError."""
    if sheet in SHEETS_MM:
        return SHEETS_MM[sheet]
    found = _CUSTOM.fullmatch(sheet.strip())
    if found is None:
        raise LayoutError(f"There is no sheet named {sheet}; choose one of {', '.join(SHEETS_MM)}, or give millimetres such as 200x150.")
    width, height = (float(v.replace(",", ".")) for v in found.groups())
    if width < _LEAST_MM[0] or height < _LEAST_MM[1] or width > _MOST_MM[0] or height > _MOST_MM[1]:
        raise LayoutError(
            f"A card of {width:g} × {height:g} mm does not work: it must be at least {_LEAST_MM[0]:g} × {_LEAST_MM[1]:g} mm "
            f"and at most {_MOST_MM[0]:g} × {_MOST_MM[1]:g} mm."
        )
    return width, height
