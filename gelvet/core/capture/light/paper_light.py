"""How bright the bare paper is in the device's own light."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.device import linear_part
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout

_PIXELS_PER_MM = 6.0


def paper_light(picture: Picture, layout: Layout, geometry: Geometry, lookup: Floats, light: FlatField) -> Floats | None:
    """Linear light (3,) of the bare paper: the middle of its zones; None where none of them is seen."""
    found = []
    for zone in layout.zones_of("paper"):
        inner = zone.rect.inset(0.12 * min(zone.rect.width, zone.rect.height))
        linear, good = linear_part(picture, geometry, inner, _PIXELS_PER_MM, lookup)
        if good.any():
            found.append(np.median((linear / light.over(inner, linear.shape[:2]))[good], axis=0))
    return np.median(found, axis=0) if found else None
