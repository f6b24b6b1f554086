"""What the bare paper of a card is like, as frozen values."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperRelief:
    """RMS slope of bare paper in one direction, rise over run, in 0.4 to 3 cycles/mm."""

    slope: float
    u: float


@dataclass(frozen=True, slots=True)
class PaperShading:
    """Correlation with the hollows of how bare paper is shaded in the flat shot: 1 in light from all sides, about 0 in light from one,
    which shades slopes."""

    in_hollows: float
    u: float
