"""What may be told of a photograph: camera, lens and exposure. Place, owner and serial numbers are never taken along."""

import math
from collections.abc import Mapping
from typing import Any

# Exif 2.32 tags by number: those of the camera, then those of the exposure.
_TAGS: dict[int, str] = {
    0x0110: "camera",
    0xA434: "lens",
    0x829A: "exposure_s",
    0x829D: "f_number",
    0x8827: "iso",
    0x920A: "focal_length_mm",
    0x9204: "exposure_bias_ev",
    0x9003: "taken",
}
_LONGEST = 80


def provenance_of(tags: Mapping[int, Any]) -> dict[str, str | float]:
    """The tellable part of EXIF `tags` by number; nonsense is left out."""
    found: dict[str, str | float] = {}
    for number, name in _TAGS.items():
        value = _plain(tags.get(number))
        if value is not None:
            found[name] = value
    return found


def _plain(value: Any) -> str | float | None:
    if isinstance(value, bytes):
        value = value.decode("latin-1")
    if isinstance(value, str):
        text = "".join(c for c in value if c.isprintable()).strip()
        return text[:_LONGEST] or None
    if isinstance(value, tuple | list):
        if len(value) == 2 and all(isinstance(v, int) for v in value) and value[1]:
            value = value[0] / value[1]
        else:
            value = value[0] if value else None
    try:
        number = float(value)
    except (TypeError, ValueError, ZeroDivisionError, OverflowError):
        return None
    return number if math.isfinite(number) else None
