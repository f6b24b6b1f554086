"""Reading the printed card code, where the card has one."""

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading import Picture
from gelvet.core.card.code import PREFIX
from gelvet.core.card.layout import Layout
from gelvet.core.errors import NothingMeasurable


def read_card_code(grey: Image) -> str | None:
    """The card id behind the code in `grey` (h, w) uint8; None where no code of ours is seen."""
    import zxingcpp

    for found in zxingcpp.read_barcodes(np.ascontiguousarray(grey), formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        if found.text.startswith(PREFIX):
            return str(found.text.removeprefix(PREFIX))
    return None


def refuse_other_card(picture: Picture, geometry: Geometry, layout: Layout) -> None:
    """The printed code, where one is read, must name this card; raises NothingMeasurable."""
    import cv2

    scale = min(geometry.pixels_per_mm, 8.0)
    # Whole-card search at 8 px/mm: the code may have been printed anywhere.
    factor = max(1, int(geometry.pixels_per_mm / scale))
    green = picture.pixels[::factor, ::factor, 1]
    grey = green if green.dtype == np.uint8 else cv2.convertScaleAbs(np.ascontiguousarray(green), alpha=1 / 257)
    card_id = read_card_code(np.asarray(grey))
    if card_id is not None and card_id != layout.card_id:
        raise NothingMeasurable(
            f"The image shows card {card_id}, and the layout is that of card {layout.card_id}; choose the matching layout."
        )
