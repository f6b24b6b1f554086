"""Whether a reference target or a device has changed: the patches' errors against those of earlier captures."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.robust import SPREAD_OF_MEDIAN

PatchErrors = dict[str, tuple[float, float, float]]  # left-out errors of each patch in L*, a*, b*
EarlierErrors = Mapping[str, Sequence[PatchErrors]]  # by the camera's name
# Fewer captures than this do not say what is usual.
MINIMUM_EARLIER = 3
_USUAL_SCATTERS = 2.0


@dataclass(frozen=True, slots=True)
class Drift:
    """How far (ΔE*ab beyond the usual scatter) the worst patch has moved, which it is, and against how many captures."""

    moved: float
    patch: str
    earlier: int


def drift(own: PatchErrors, earlier: Sequence[PatchErrors]) -> Drift | None:
    """Against `earlier` captures of the same target by the same device; None where there are too few of them."""
    if len(earlier) < MINIMUM_EARLIER:
        return None
    worst = Drift(0.0, "", len(earlier))
    for patch, error in own.items():
        before: Floats = np.array([errors[patch] for errors in earlier if patch in errors])
        if len(before) < MINIMUM_EARLIER:
            continue
        usual = np.median(before, axis=0)
        scatter = SPREAD_OF_MEDIAN * float(np.median(np.linalg.norm(before - usual, axis=1)))
        moved = float(np.linalg.norm(np.array(error) - usual)) - _USUAL_SCATTERS * scatter
        if moved > worst.moved:
            worst = Drift(moved, patch, len(before))
    return worst
