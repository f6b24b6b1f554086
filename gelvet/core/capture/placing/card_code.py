"""Reading the printed card code, where the card has one."""

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.code import PREFIX
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.errors import NothingMeasurable


def read_card_code(grey: Image) -> str | None:
    """The card id behind the code in `grey` (h, w) uint8; None where no code of ours is seen."""
    import zxingcpp

    for found in zxingcpp.read_barcodes(np.ascontiguousarray(grey), formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        if found.text.startswith(PREFIX):
            return str(found.text.removeprefix(PREFIX))
    return None


def _eight_bit(green: Image) -> Image:
    import cv2

    if green.dtype == np.uint8:
        return np.ascontiguousarray(green)
    if green.dtype == np.uint16:
        return np.asarray(cv2.convertScaleAbs(np.ascontiguousarray(green), alpha=1 / 257))
    return np.asarray(np.clip(green * 255, 0, 255), dtype=np.uint8)


def codes_in(picture: Picture) -> list[str]:
    """The ids of all cards whose code is seen in the picture, each once."""
    import zxingcpp

    formats = zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)
    for longest in (2400, 4800):
        factor = max(1, max(picture.pixels.shape[:2]) // longest)
        found = zxingcpp.read_barcodes(_eight_bit(picture.pixels[::factor, ::factor, 1]), formats=formats)
        ids = [str(f.text.removeprefix(PREFIX)) for f in found if f.text.startswith(PREFIX)]
        if ids or factor == 1:
            return list(dict.fromkeys(ids))
    return []


def code_of_card(picture: Picture, geometry: Geometry, layout: Layout) -> str | None:
    """The id that is printed on the card that lies there; None where none is read."""
    place = geometry.bounds_px(Rect(0, 0, *layout.size_mm), picture.pixels.shape)
    if place is None:
        return None
    # At 8 px/mm over the whole card: the code may have been printed anywhere.
    factor = max(1, int(geometry.pixels_per_mm / 8.0))
    return read_card_code(_eight_bit(picture.pixels[place][::factor, ::factor, 1]))


def refuse_other_card(picture: Picture, geometry: Geometry, layout: Layout) -> None:
    """The printed code, where one is read, must name this card; raises NothingMeasurable."""
    card_id = code_of_card(picture, geometry, layout)
    if card_id is not None and card_id != layout.card_id:
        raise NothingMeasurable(
            f"The image shows card {card_id}, and the layout is that of card {layout.card_id}; choose the matching layout."
        )
