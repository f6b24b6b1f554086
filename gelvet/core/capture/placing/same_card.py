"""Whether two shots show the same painted card: the same tags in their places, the same code, the same painted zones."""

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.placing.card_code import refuse_other_card
from gelvet.core.capture.placing.fiducials import FoundTags, place_card
from gelvet.core.capture.placing.geometry import Geometry, rectify
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.layout import Layout
from gelvet.core.errors import NothingMeasurable

# Another lamp changes zones together; other paints change their order. Same cards correlate above 0.95 in trials.
_SAME_CARD_CORRELATION = 0.75
_MINIMUM_ZONES = 6
_PIXELS_PER_MM = 2.0


def refuse_strangers(shots: list[tuple[Picture, FoundTags]], layout: Layout) -> None:
    """Raises NothingMeasurable where a shot does not show the card of the first one."""
    first: Floats | None = None
    for shot, found in shots:
        geometry, _ = place_card(found, layout)
        refuse_other_card(shot, geometry, layout)
        seen = _zone_densities(shot, geometry, layout)
        if first is None:
            first = seen
        elif not _alike(first, seen):
            raise NothingMeasurable("The shots of this capture show different cards; make a capture of its own for each card.")


def _zone_densities(shot: Picture, geometry: Geometry, layout: Layout) -> Floats:
    """Mean of the logarithm of the code values (n, 3) of each painted zone; NaN outside the image."""
    rows = []
    for zone in (z for z in layout.zones if z.kind != "paper"):
        place = geometry.bounds_px(zone.rect, shot.pixels.shape)
        if place is None or not geometry.holds(zone.rect, shot.pixels.shape):
            rows.append(np.full(3, np.nan))
            continue
        part = rectify(shot.pixels[place], (place[1].start, place[0].start), geometry, zone.rect, _PIXELS_PER_MM)
        rows.append(np.log(part.reshape(-1, 3) / shot.full_scale + 0.01).mean(axis=0))
    return np.array(rows).reshape(-1, 3)


def _alike(one: Floats, two: Floats) -> bool:
    usable = np.isfinite(one).all(axis=1) & np.isfinite(two).all(axis=1)
    if usable.sum() < _MINIMUM_ZONES:
        return True
    correlations = [np.corrcoef(one[usable, c], two[usable, c])[0, 1] for c in range(3)]
    return bool(np.nanmean(correlations) > _SAME_CARD_CORRELATION)
