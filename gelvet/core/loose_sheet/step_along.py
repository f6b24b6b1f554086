"""Where one paint ends and the next begins along a painted rectangle."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats

# Neither side of a step is shorter.
_SHORTEST_MM = 3.0
# Lines through this much on either side, an edge's width left out, miss each other by so much, by such a share of the deeper, and by
# so many times what they leave.
_REACH_MM, _EDGE_MM, _DEPTH, _SHARE, _SCATTERS = 4.0, 0.5, 0.07, 0.3, 5.0
# The step is seen in each of so many bands, between what lies this far to both sides, with such a share of its size.
_BANDS, _BESIDE_MM, _SEEN = 5, 1.5, 0.6


def step_along(density: Floats, scale: float) -> int | None:
    """The column at which `density` (breadth, length, 3) steps from one paint to another over its whole breadth; None where it does
    not. `scale` is in samples per mm."""
    at = _where_lines_part(np.median(density, axis=0), scale)
    return at if at is not None and _runs_across(density, at, scale) else None


def _where_lines_part(profile: Floats, scale: float) -> int | None:
    """The place of a profile (n, 3) at which the straight lines through the stretches before and after miss each other most."""
    reach, gap, least = round(_REACH_MM * scale), round(_EDGE_MM * scale), round(_SHORTEST_MM * scale)
    best, place = 0.0, None
    for at in range(least, len(profile) - least, max(1, gap // 2)):
        before, after = _line(profile[max(0, at - reach) : at - gap]), _line(profile[at + gap : at + reach][::-1])
        here, there = before.ahead(gap), after.ahead(gap)
        jump = float(np.abs(here - there).max())
        level = float(max(here.max(), there.max()))
        if jump > max(_DEPTH, _SHARE * level, _SCATTERS * max(before.scatter, after.scatter), best):
            best, place = jump, at
    return place


def _runs_across(density: Floats, at: int, scale: float) -> bool:
    """Whether the step at column `at` is seen in every part of the breadth; grain's is not."""
    gap, beside = round(_EDGE_MM * scale), round(_BESIDE_MM * scale)
    before, after = density[:, max(0, at - beside) : at - gap], density[:, at + gap : at + beside]
    jump = np.median(after, axis=(0, 1)) - np.median(before, axis=(0, 1))
    channel = int(np.argmax(np.abs(jump)))
    bands = zip(*(np.array_split(side[..., channel], _BANDS) for side in (before, after)), strict=True)
    least = _SEEN * abs(jump[channel])
    return all((np.median(there) - np.median(here)) * np.sign(jump[channel]) > least for here, there in bands)


@dataclass(frozen=True, slots=True)
class _Line:
    """The straight line through a stretch of profile: its end (3,), its slope (3,) and how far the stretch strays from it."""

    end: Floats
    slope: Floats
    scatter: float

    def ahead(self, samples: int) -> Floats:
        return np.asarray(self.end + self.slope * samples)


def _line(stretch: Floats) -> _Line:
    x = np.arange(len(stretch)) - (len(stretch) - 1) / 2
    slope = x @ stretch / max(float(x @ x), 1.0)
    level = stretch.mean(axis=0)
    scatter = float((stretch - level - x[:, None] * slope).std(axis=0).max())
    return _Line(level + slope * x[-1], slope, scatter)
