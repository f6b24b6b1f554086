"""What planning knows of a paint: its label, and its measured colours where there are any."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

from gelvet.core.pigments.pigment_list import Pigment, find

Lab = tuple[float, float, float]

# Where a hue family of the pigment list lies on the CIELAB hue circle, degrees, and a masstone's usual lightness and
# chroma; rough on purpose, used only until a paint is measured.
_FAMILIES: dict[str, tuple[float, float, float]] = {
    "red": (28.0, 40.0, 50.0), "orange": (55.0, 60.0, 60.0), "yellow": (88.0, 80.0, 75.0), "green": (170.0, 35.0, 30.0),
    "blue": (280.0, 28.0, 40.0), "violet": (325.0, 25.0, 30.0), "brown": (58.0, 35.0, 22.0), "black": (90.0, 15.0, 3.0),
    "white": (95.0, 95.0, 3.0),
}  # fmt: skip
# Below this chroma a masstone has no hue that one could order by.
GREY_CHROMA = 8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PaintFacts:
    """`place` is the paint's position in its range or set; `masstone` and `wash` are measured Lab, None before."""

    id: int
    maker: str
    name: str
    pigments: tuple[str, ...]
    form: str = "tube"
    range: str = ""
    place: int | None = None
    claims: Mapping[str, str] = field(default_factory=dict)
    owned: bool = True
    sparkles: bool = False
    masstone: Lab | None = None
    wash: Lab | None = None

    @property
    def listed(self) -> list[Pigment]:
        """Those of its pigments that are in the list."""
        return [p for p in map(find, self.pigments) if p is not None]


def likely_lab(paint: PaintFacts) -> Lab | None:
    """The measured masstone, else what its pigments' families suggest; None where neither is known."""
    if paint.masstone is not None:
        return paint.masstone
    families = [_FAMILIES[p.hue] for p in paint.listed]
    if not families:
        return None
    a = sum(c * math.cos(math.radians(h)) for h, _, c in families) / len(families)
    b = sum(c * math.sin(math.radians(h)) for h, _, c in families) / len(families)
    return sum(lightness for _, lightness, _ in families) / len(families), a, b


def hue_of(paint: PaintFacts) -> float | None:
    """Hue angle 0 to 360 of the wash, where colours are clearest, else of the masstone; None for greys and unknowns."""
    lab = paint.wash or likely_lab(paint)
    if lab is None or math.hypot(lab[1], lab[2]) < GREY_CHROMA / (2 if paint.wash else 1):
        return None
    return math.degrees(math.atan2(lab[2], lab[1])) % 360


def character(paint: PaintFacts, what: str) -> bool:
    """Whether all listed pigments of the paint are usually `what` (staining, granulating, transparent, opaque)."""
    return bool(paint.listed) and all(what in p.character for p in paint.listed)
