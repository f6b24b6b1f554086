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
        elif not alike(first, seen, _centres(layout)):
            raise NothingMeasurable(
                "The shots of this capture show different cards, or one of them mirrors its lamp over the paint; make a capture of its own "
                "for each card, or take that shot again."
            )


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


def _centres(layout: Layout) -> Floats:
    """Places (n, 2) in mm of the painted zones."""
    return np.array([z.rect.centre for z in layout.zones if z.kind != "paper"]).reshape(-1, 2)


def alike(one: Floats, two: Floats, centres: Floats) -> bool:
    """Whether the zones at `centres` (n, 2) have the same logarithms of light (n, 3) in two shots, but for the shot's own light, which
    may fall off evenly across the card."""
    usable = np.isfinite(one).all(axis=1) & np.isfinite(two).all(axis=1)
    if usable.sum() < _MINIMUM_ZONES:
        return True
    one, two = one[usable], two[usable]
    plane = np.column_stack([np.ones(len(one)), centres[usable]])
    light = plane @ np.linalg.lstsq(plane, (one - two).mean(axis=1), rcond=None)[0]
    # All channels as one: where a paint takes nothing of a colour, that channel shows little but the light.
    same = two + light[:, None]
    return bool(np.corrcoef((one - one.mean(axis=0)).ravel(), (same - same.mean(axis=0)).ravel())[0, 1] > _SAME_CARD_CORRELATION)
