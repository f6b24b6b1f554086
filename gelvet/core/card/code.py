"""The machine-readable card code: a QR symbol that holds the card's id behind a fixed prefix."""

import numpy as np

from gelvet.core.arrays import Image

PREFIX = "gelvet:"


def code_modules(card_id: str) -> Image:
    """Square (n, n) bool array, True where the symbol is black, without quiet zone."""
    import segno

    symbol = segno.make_qr(PREFIX + card_id, error="m", boost_error=False)
    return np.array([[bool(v) for v in row] for row in symbol.matrix])
