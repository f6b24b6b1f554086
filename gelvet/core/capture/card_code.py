"""Reading the printed card code, where the card has one."""

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.card.code import PREFIX


def read_card_code(grey: Image) -> str | None:
    """The card id behind the code in `grey` (h, w) uint8; None where no code of ours is seen."""
    import zxingcpp

    for found in zxingcpp.read_barcodes(np.ascontiguousarray(grey), formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        if found.text.startswith(PREFIX):
            return str(found.text.removeprefix(PREFIX))
    return None
