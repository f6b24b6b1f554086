"""The simulated card's paint on a sheet without tags, patches and ink: scanned and photographed once for all tests."""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.placing.fiducials import detect_tags, place_card
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import card_for_camera, simulate_scan, take_photograph
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.unprinted import unprinted
from tests import simulated


@lru_cache(maxsize=1)
def scanned() -> tuple[Picture, Geometry]:
    """A sheet on a flatbed, and where it lies, told by a scan of a printed card in the same place."""
    card, scanner = simulated.bench().capture.card, Scanner(rotation_deg=0.7, tone="gamma-2.2")
    sheet = simulate_scan(unprinted(card.layout), card.paints, scanner, 11)
    return Picture(pixels=sheet.image, stated_dpi=300.0, source="old.tif"), _place(simulated.bench().capture.image, card.layout)


@lru_cache(maxsize=1)
def photographed() -> tuple[Picture, Geometry]:
    card, camera = simulated.bench().capture.card, Camera(tilt_deg=9.0, rotation_deg=2.0, pixels_per_mm=12.0)
    sheets = [
        take_photograph(card_for_camera(layout, card.paints, camera, 11), camera, 12, "jpeg-92")
        for layout in (unprinted(card.layout), card.layout)
    ]
    return Picture(pixels=sheets[0].image, source="old.jpg"), _place(sheets[1].image, card.layout)


def _place(pixels: Image, layout: Layout) -> Geometry:
    return place_card(detect_tags(pixels, layout), layout)[0]


def as_eight_bit(pixels: Image) -> Image:
    return pixels if pixels.dtype == np.uint8 else np.asarray((pixels / 257 + 0.5).astype(np.uint8))


def scanned_jpeg() -> bytes:
    """The scanned sheet as an old file: 8 bit, no profile, no resolution."""
    import imagecodecs

    return bytes(imagecodecs.jpeg8_encode(as_eight_bit(scanned()[0].pixels), level=94))
