"""Whether another shot of a card was taken as the flat one was: seen through that one's colours, the reference patches tell."""

import numpy as np

from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.shots.contrast import PatchLight
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab

# A device in steady light agrees with itself to some 0.1, and under a low lamp, whose relief roughens the patches, to 0.9;
# another one, or another kind of light, starts at 2.
MOST_APART_DE, MOST_APART_UNDER_LAMP_DE = 0.7, 1.4
_LEAST_SEEN = 5


def patches_apart(model: ColourModel, flat_patches: PatchLight, patches: PatchLight) -> float | None:
    """Median CIEDE2000, by the `model` of the flat shot, between its patches and those of another shot with the same light on bare
    paper; None where too few are seen in both."""
    one, two = (lights[0].reshape(-1, 3) for lights in (flat_patches, patches))
    seen = np.isfinite(one).all(axis=1) & np.isfinite(two).all(axis=1)
    if seen.sum() < _LEAST_SEEN:
        return None
    return float(np.median(ciede2000(*(xyz_to_lab(model.to_xyz(light[seen])) for light in (one, two)))))


def other_device(file: ShotFile, apart: float | None) -> str | None:
    """In a sentence, that the colours of a shot whose patches are so far `apart` do not compare with the flat one's."""
    if apart is None or apart <= MOST_APART_UNDER_LAMP_DE:
        return None
    return (
        f"{file.title}: its reference patches differ by {apart:.1f} ΔE00 from those of the even shot, as through another device or in "
        "light of another kind; its colours were not used. Take all shots with one device, under lamps of one kind."
    )
