"""The colours that the reference patches enclose, and how far a colour lies beyond them."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats


@dataclass(frozen=True, slots=True)
class Gamut:
    """The convex hull of known colours in L*a*b*: `planes` (n, 4), outward unit normals and offsets."""

    planes: Floats

    def beyond(self, lab: Floats) -> float:
        """How far, in ΔE*ab, `lab` (3,) lies outside at the least; 0 inside."""
        return max(0.0, float((self.planes[:, :3] @ lab + self.planes[:, 3]).max()))


def gamut_of(lab: Floats) -> Gamut | None:
    """Of colours (n, 3); None where they do not enclose a body."""
    from scipy.spatial import ConvexHull, QhullError

    if len(lab) < 5:
        return None
    try:
        return Gamut(np.asarray(ConvexHull(lab).equations))
    except QhullError:
        return None
