"""What a person sees while correcting a sheet: the image as it is, and the sheet pulled straight. For the eye only."""

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.placing.corners import place_by_corners
from gelvet.core.capture.placing.geometry import rectify
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.errors import NothingMeasurable


def whole_view(picture: Picture, longest: int) -> Image:
    """The image (h, w, 3) uint8, its longer side at most `longest`."""
    return _for_the_eye(_reduced(picture, longest)[0], picture)


def straight_view(picture: Picture, layout: Layout, longest: int) -> Image:
    """The sheet within its corners (h, w, 3) uint8, `longest` along its longer side at most."""
    if layout.placement is None:
        raise NothingMeasurable(f"Card {layout.card_id} has tags of its own; it is placed by them.")
    geometry = place_by_corners(layout.placement, layout, picture.pixels.shape)
    small, factor = _reduced(picture, 2 * longest)
    pixels_per_mm = min(longest / max(layout.size_mm), geometry.pixels_per_mm)
    return _for_the_eye(rectify(small, (0, 0), geometry.reduced(factor), Rect(0, 0, *layout.size_mm), pixels_per_mm), picture)


def _reduced(picture: Picture, longest: int) -> tuple[Image, int]:
    """Pixels averaged by a whole factor until they are near `longest`, and the factor."""
    import cv2

    height, width = picture.pixels.shape[:2]
    factor = max(1, -(-max(height, width) // longest))
    cut = picture.pixels[: height // factor * factor, : width // factor * factor]
    return np.asarray(cv2.resize(cut, (width // factor, height // factor), interpolation=cv2.INTER_AREA)), factor


def _for_the_eye(pixels: Image, picture: Picture) -> Image:
    values = pixels / picture.full_scale
    if picture.linear:
        values = np.power(np.clip(values / np.percentile(values, 99.5), 0, 1), 1 / 2.2)
    return np.asarray((np.clip(values, 0, 1) * 255 + 0.5).astype(np.uint8))
