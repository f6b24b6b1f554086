"""Mirror flakes in sparkling paints: where each lies, how it is tilted, and whether it sends a lamp's light to the eye."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.simulate.paint import SimulatedPaint

_TILT_SPREAD_DEG = 14.0
_SMALLEST_MM, _LARGEST_MM = 0.03, 0.09
# A flake shines where its mirror direction meets the sensor's aperture within this half-angle.
_ACCEPTANCE_DEG = 4.0
# How many times the light of a perfect white a facing flake sends back.
GLARE = 3.0
_PAINTED = {"masstone", "gradient", "wash", "over_ink", "beside_ink", "unlifted", "lifted", "black_paper"}


@dataclass(frozen=True, slots=True)
class Flakes:
    """Places (n, 2) in mm, sizes (n,) in mm, tilts (n,) and their azimuths (n,) in degrees, from +x toward +y."""

    places_mm: Floats
    sizes_mm: Floats
    tilts_deg: Floats
    azimuths_deg: Floats

    def facing(self, azimuth_deg: float, elevation_deg: float) -> Mask:
        """Which flakes (n,) mirror a lamp at that azimuth and elevation straight up."""
        half = (90 - elevation_deg) / 2
        turn = np.radians(self.azimuths_deg - azimuth_deg)
        tilt = np.radians(self.tilts_deg)
        cosine = np.cos(tilt) * np.cos(np.radians(half)) + np.sin(tilt) * np.sin(np.radians(half)) * np.cos(turn)
        return np.asarray(np.degrees(np.arccos(np.clip(cosine, -1, 1))) < _ACCEPTANCE_DEG)


def scatter_flakes(layout: Layout, paints: dict[str, SimulatedPaint], rng: np.random.Generator) -> Flakes:
    """Flakes over every painted zone of the sparkling paints, at each paint's own density."""
    places: list[Floats] = [np.empty((0, 2))]
    for zone in layout.zones:
        paint = paints.get(zone.swatch or "")
        if paint is not None and zone.kind in _PAINTED and paint.flakes_per_cm2 > 0:
            left = paint.flakes_stay if zone.kind == "lifted" else 1.0
            places.append(_inside(zone.rect, left * paint.flakes_per_cm2, rng))
        elif zone.kind == "mix":
            mixed = sum(float(share) * paints[swatch].flakes_per_cm2 for swatch, share in zone.extra["parts"])
            places.append(_inside(zone.rect, mixed, rng))
    where = np.concatenate(places)
    count = len(where)
    return Flakes(
        places_mm=where,
        sizes_mm=rng.uniform(_SMALLEST_MM, _LARGEST_MM, count),
        tilts_deg=rng.rayleigh(_TILT_SPREAD_DEG, count),
        azimuths_deg=rng.uniform(0, 360, count),
    )


def _inside(rect: Rect, per_cm2: float, rng: np.random.Generator) -> Floats:
    count = int(rng.poisson(rect.width * rect.height / 100 * per_cm2))
    return np.column_stack([rng.uniform(rect.x, rect.right, count), rng.uniform(rect.y, rect.bottom, count)])


def light_up(device: Floats, flakes: Flakes, pixels_per_mm: float, azimuth_deg: float, elevation_deg: float) -> Floats:
    """`device` (h, w, 3) linear light with the glints of one lamp added, each in proportion to its flake's area and as wide as it."""
    shining = flakes.facing(azimuth_deg, elevation_deg)
    if not shining.any():
        return device
    lit = device.copy()
    energy = GLARE * (flakes.sizes_mm[shining] * pixels_per_mm) ** 2
    place = flakes.places_mm[shining] * pixels_per_mm
    # As wide as a square of the flake's size, and spread over the cells that it touches.
    variance = ((flakes.sizes_mm[shining] * pixels_per_mm) ** 2 + 1) / 12
    reach = int(np.ceil(3 * np.sqrt(variance.max())))
    steps = np.array([(y, x) for y in range(-reach, reach + 1) for x in range(-reach, reach + 1)])
    cells = place.astype(int)[:, None, ::-1] + steps
    apart = ((cells + 0.5 - place[:, None, ::-1]) ** 2).sum(axis=2)
    weight = np.exp(-apart / (2 * variance[:, None]))
    light = energy[:, None] * weight / weight.sum(axis=1, keepdims=True)
    inside = ((cells >= 0) & (cells < device.shape[:2])).all(axis=2)
    np.add.at(lit, tuple(cells[inside].T), light[inside][:, None].astype(lit.dtype))
    return lit
