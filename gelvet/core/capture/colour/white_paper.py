"""No reference at all: the paper is taken for white, and the rest follows from what the file says of itself."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.icc import ProfileCurves, read_profile
from gelvet.core.capture.colour.models import ColourModel
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.colour.spaces import WHITE_D50, XYZ_D50_FROM_SRGB, lab_to_xyz, xyz_to_lab

WHITE_PAPER = "white-paper"
# Unprinted artists' paper without brighteners, and a profile's result that could be such paper. Assumed, and said so.
ASSUMED_PAPER_LAB = np.array([95.5, 0.0, 2.5])
_PALEST_L, _MOST_CHROMA = 85.0, 10.0


def stated_encoding(picture: Picture) -> ProfileCurves | None:
    """How the file says its values are encoded: its own profile; sRGB for 8-bit files without one (IEC 61966-2-1 is what
    such files are by convention); None where nothing may be assumed."""
    import imagecodecs

    if picture.icc_profile:
        return read_profile(picture.icc_profile)
    if picture.pixels.dtype == np.uint8:
        return read_profile(imagecodecs.cms_profile("srgb"))
    return None


def could_be_paper(xyz: Floats) -> bool:
    """Whether XYZ (3,) is light and colourless enough for bare paper that was exposed as a scanner does."""
    lightness, a, b = xyz_to_lab(xyz)
    return bool(lightness >= _PALEST_L and np.hypot(a, b) <= _MOST_CHROMA)


def model_from_paper(paper: Floats, primaries: ColourModel | None) -> ColourModel:
    """Linear light to XYZ such that the light of the `paper` (3,) becomes that of assumed paper; hues are those of the
    `primaries`, a display's where there are none."""
    matrix = XYZ_D50_FROM_SRGB.T if primaries is None else primaries.coefficients
    wanted = lab_to_xyz(ASSUMED_PAPER_LAB, WHITE_D50)
    gain = np.linalg.solve(matrix.T, wanted) / np.maximum(paper, 1e-4)
    return ColourModel("linear", np.diag(gain) @ matrix, WHITE_PAPER)
