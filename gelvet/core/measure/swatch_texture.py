"""Grain and separation of one swatch: both are judged on its wash, pixel by pixel."""

from dataclasses import replace

import numpy as np

from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.local_colour import LocalColour
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.grain.granulation import grain_at, granulation
from gelvet.core.measure.grain.lightness_spectrum import COARSE_SEPARATION_BAND, SEPARATION_BAND
from gelvet.core.measure.grain.tooth import Hollows
from gelvet.core.measure.quantities.texture import Component, GrainAt, Granulation, Separation, Tooth
from gelvet.core.measure.separation.chance_colours import ChanceColours
from gelvet.core.measure.separation.components import layers_of
from gelvet.core.measure.separation.index import separation
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.separation.mixed_colours import MixedColours
from gelvet.core.measure.separation.pixel_path import PixelPath, pixel_path
from gelvet.core.measure.swatch_zones import Paper, SwatchZones, Texture, texture_of
from gelvet.core.measure.values import Absent, tint_depth

# To which frequency colours are told apart, in cycles/mm: above it lies mostly noise, and what is averaged below it is finer than what
# is judged.
_FINEST = 5.0
_STRETCHES = 4
# Of the doubt of a colour, what colours near it do not share: on a second simulator's flatbeds 13 of 15 washes of two pigments lie
# within k = 2 with it, 11 with three quarters of it.
_NOT_SHARED = 1.07


def grain_of(
    capture: CalibratedCapture, zones: SwatchZones, paper: Paper, texture: Texture | Absent, tooth: Tooth | Absent
) -> Granulation | Absent:
    """The wash's grain, and that at other depths."""
    if isinstance(texture, Absent):
        return texture
    cal = capture.calibration
    known = None if isinstance(tooth, Absent) else tooth
    found = granulation(texture.pixels, paper.texture, cal.blur_mm, cal.noise_l, texture.kind, known)
    return found if isinstance(found, Absent) else replace(found, by_depth=_grain_by_depth(capture, zones, paper, known))


def _grain_by_depth(capture: CalibratedCapture, zones: SwatchZones, paper: Paper, tooth: Tooth | None) -> tuple[GrainAt, ...]:
    """The index in heavy and in light colour: each plain zone, and stretches of the gradient."""
    import cv2

    cal, white = capture.calibration, paper.colour.xyz
    if cal.blur_mm is None or paper.texture is None:
        return ()
    places = [texture_of(z, white) for kind in ("masstone", "wash", "step") for z in zones.all(kind)]
    places += [texture_of(z, white, (i / _STRETCHES, (i + 1) / _STRETCHES)) for z in zones.all("gradient") for i in range(_STRETCHES)]
    found = []
    for place in places:
        if place is None or not place.pixels.good.any():
            continue
        pixels = place.pixels
        depth = float(tint_depth(np.array(cv2.mean(pixels.xyz, pixels.good.astype(np.uint8))[:3]), white))
        at = grain_at(pixels, depth, place.kind, paper.texture, cal.blur_mm, cal.noise_l, 0.0 if tooth is None else tooth.with_shading)
        found += [at] if at is not None else []
    return tuple(sorted(found, key=lambda at: -at.depth))


def parting_of(
    capture: CalibratedCapture, zones: SwatchZones, paper: Paper, texture: Texture | Absent, hollows: Hollows | Absent
) -> tuple[PixelPath | None, Separation | Absent]:
    """With the path that it is judged by, and where each component sits as far as low lamps tell."""
    if isinstance(texture, Absent):
        return None, texture
    # Of two pigments that part, a masstone's pale places tell the paint's colour at a depth as well. Steps of dilution do not: water
    # parts pigments there more or less than in the wash, and so much paint of one depth would bend the path to itself.
    plain = [z.fine for kind in ("gradient", "masstone") for z in zones.all(kind) if z.fine is not None]
    pixels = [*plain, texture.pixels]
    cal, white, local = capture.calibration, paper.colour.xyz, LocalColour.of(capture, texture.rect)
    coded = local.coded_light()
    unsaid = capture.picture.coarse_colour and coded is None
    band = COARSE_SEPARATION_BAND if unsaid else SEPARATION_BAND
    limit = LightLimit(band[1] if unsaid else _FINEST, cal.blur_mm or 0.0)
    path = pixel_path(pixels, white, limit, band)
    mixed = None if path is None else MixedColours(pixels, path, white)
    chance = ChanceColours(plain, local.shading())
    found = separation(texture.pixels, path, white, paper.texture, cal.blur_mm, local.noise(), coded, mixed, chance)
    if isinstance(found, Separation):
        found = replace(found, u=float(np.hypot(found.u, found.index * _doubt_of_differences(capture, texture, paper))))
        found = replace(found, components=tuple(_of_known_colour(c, capture) for c in found.components))
    if isinstance(found, Absent) or isinstance(hollows, Absent) or len(found.components) != 2:
        return path, found
    _, amounts = layers_of(texture.pixels, found.components, white)
    seated = [replace(c, tooth=hollows.follow(np.ascontiguousarray(amounts[..., i]))) for i, c in enumerate(found.components)]
    return path, replace(found, components=tuple(seated))


def _of_known_colour(part: Component, capture: CalibratedCapture) -> Component:
    """With the calibration's uncertainty added."""
    return replace(part, u=float(np.hypot(part.u, capture.calibration.colour_uncertainty(xyz_to_lab(part.xyz))[0])))


def _doubt_of_differences(capture: CalibratedCapture, texture: Texture, paper: Paper) -> float:
    """Relative standard uncertainty from calibration of what differs in a*, b* inside a wash: that of its colour, over the way
    from the paper to it, as far as colours so near each other do not share it."""
    lab = xyz_to_lab(np.median(texture.pixels.xyz[texture.pixels.good], axis=0).astype(float))
    way = float(np.linalg.norm(lab - paper.colour.lab))
    return _NOT_SHARED * float(np.linalg.norm(capture.calibration.colour_uncertainty(lab)[1][1:])) / max(way, 1.0)
