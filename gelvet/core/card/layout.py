"""A card as data: fiducial tags, reference patches and zones, in millimetres from the card's top-left corner."""

import math
from dataclasses import dataclass, field, replace
from typing import Any, Literal

ZoneKind = Literal[
    "paper", "masstone", "gradient", "wash", "tilt", "step", "ink", "over_ink", "beside_ink", "lifted", "unlifted",
    "glaze", "wet_drop", "water_drop", "effect", "mix", "exposed", "covered", "black_paper",
]  # fmt: skip
Axis = Literal["+x", "-x", "+y", "-y"]
Scale = Literal["file", "clicks", "size", "unknown"]


@dataclass(frozen=True, slots=True)
class Rect:
    """An axis-parallel rectangle on the card, millimetres."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        return self.x + self.width

    @property
    def bottom(self) -> float:
        return self.y + self.height

    @property
    def centre(self) -> tuple[float, float]:
        return self.x + self.width / 2, self.y + self.height / 2

    def inset(self, margin: float) -> "Rect":
        """Smaller by `margin` on each side; negative margins grow it."""
        return Rect(self.x + margin, self.y + margin, self.width - 2 * margin, self.height - 2 * margin)

    def intersects(self, other: "Rect") -> bool:
        return self.x < other.right and other.x < self.right and self.y < other.bottom and other.y < self.bottom

    def as_list(self) -> list[float]:
        """As a file holds it: edges to four decimals, so that places which touch still do."""
        x, y, right, bottom = (round(v, 4) for v in (self.x, self.y, self.right, self.bottom))
        return [x, y, round(right - x, 4), round(bottom - y, 4)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Tag:
    """An AprilTag 36h11 marker; `size_mm` is the outer edge of its black border."""

    id: int
    centre_mm: tuple[float, float]
    size_mm: float

    @property
    def rect(self) -> Rect:
        half = self.size_mm / 2
        return Rect(self.centre_mm[0] - half, self.centre_mm[1] - half, self.size_mm, self.size_mm)


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch:
    id: str
    rect: Rect


@dataclass(frozen=True, slots=True, kw_only=True)
class Zone:
    """A place on the card that holds one kind of thing. `axis` points from masstone to wash."""

    id: str
    kind: str
    rect: Rect
    swatch: str | None = None
    axis: Axis | None = None
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Swatch:
    id: str
    label: str = ""
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """Where a sheet without tags lies in its one image: the corners (4, 2) in pixels of the upright image, clockwise from
    the top-left, and the size (width, height) of that image. `scale` says what the millimetres rest on."""

    corners_px: tuple[tuple[float, float], ...]
    image_px: tuple[int, int]
    scale: Scale = "unknown"

    @property
    def is_upright(self) -> bool:
        """Whether the corners go clockwise round a convex shape, as seen with y downwards."""
        points = self.corners_px
        if len(points) != 4 or not all(math.isfinite(v) for point in points for v in point):
            return False
        sides = [(q[0] - p[0], q[1] - p[1]) for p, q in zip(points, (*points[1:], points[0]), strict=True)]
        return all(a[0] * b[1] - a[1] * b[0] > 0 for a, b in zip(sides, (*sides[1:], sides[0]), strict=True))


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """`placement` is given for a sheet without a printed card, and for no other."""

    card_id: str
    size_mm: tuple[float, float]
    tags: tuple[Tag, ...]
    patches: tuple[Patch, ...]
    zones: tuple[Zone, ...]
    swatches: tuple[Swatch, ...]
    placement: Placement | None = None
    extra: dict[str, Any] = field(default_factory=dict)

    def as_written(self) -> "Layout":
        """With its places as a file holds them, so that whoever reads the card measures what was built."""
        return replace(
            self,
            patches=tuple(replace(p, rect=Rect(*p.rect.as_list())) for p in self.patches),
            zones=tuple(replace(z, rect=Rect(*z.rect.as_list())) for z in self.zones),
        )

    def zones_of(self, kind: str, swatch: str | None = None) -> tuple[Zone, ...]:
        """Zones of `kind`; of one swatch where `swatch` is given."""
        return tuple(z for z in self.zones if z.kind == kind and (swatch is None or z.swatch == swatch))

    def zone(self, zone_id: str) -> Zone:
        """The zone `zone_id`; KeyError where the card has none."""
        for zone in self.zones:
            if zone.id == zone_id:
                return zone
        raise KeyError(zone_id)
