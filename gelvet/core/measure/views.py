"""Pictures of what the figures rest on, made from the same arrays: grain, separation, the two components, glints."""

from collections.abc import Mapping, Sequence

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.shots.lit_shots import LitShot
from gelvet.core.card.layout import Rect, Zone
from gelvet.core.colour.spaces import WHITE_D50, lightness, xyz_to_srgb8
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.separation.components import layers_of
from gelvet.core.measure.separation.pixel_path import PixelPath, off_path
from gelvet.core.measure.swatch_zones import Texture
from gelvet.core.measure.values import Absent, ZonePixels

# What a picture shows of a zone, and how finely.
VIEW_MM = (12.0, 9.0)
VIEW_PIXELS_PER_MM = 24.0
_GLINT_KINDS, _ON_BLACK = ("masstone", "gradient", "wash"), ("black_paper",)
# Contrast is stretched until this many SDs fill the picture.
_STRETCH_SDS = 3.0
_LEAST_SPREAD = 0.4
_FULL_COLOUR_OFF = 12.0


def swatch_views(
    texture: Texture | Absent,
    path: PixelPath | None,
    paper: Floats,
    parted: Separation | Absent,
    lights: Sequence[LitShot],
    places: Mapping[str, Sequence[Zone]],
) -> dict[str, Image]:
    """By name: `plain` and `grain`, `separation`, `component-1` and `-2`, and `light-` (`black-` on black paper) with the side of
    the lamp in degrees, or `even`, for each shot of the card."""
    found: dict[str, Image] = {}
    if isinstance(texture, Texture):
        part = _middle(texture.pixels)
        found["plain"] = _enlarged(xyz_to_srgb8(part.xyz)[0], part)
        found["grain"] = _enlarged(_stretched(part), part)
        if path is not None and not isinstance(parted, Absent):
            limited = path.limit.of(part)
            found["separation"] = _enlarged(_off_the_path(limited, path, paper), limited)
            found |= {name: _enlarged(view, part) for name, view in _components(part, paper, parted).items()}
    if len(lights) > 1:
        for name, kinds in (("light", _GLINT_KINDS), ("black", _ON_BLACK)):
            zone = next((places[kind][0] for kind in kinds if places.get(kind)), None)
            if zone is not None:
                found |= {f"{name}-{_side(light)}": _under(light, zone.rect) for light in lights}
    return found


def _middle(pixels: ZonePixels) -> ZonePixels:
    """The middle of a zone, as much as a picture shows."""
    half = [int(side * pixels.pixels_per_mm / 2) for side in VIEW_MM[::-1]]
    row, column = (n // 2 for n in pixels.good.shape)
    part = (slice(max(0, row - half[0]), row + half[0]), slice(max(0, column - half[1]), column + half[1]))
    return ZonePixels(xyz=pixels.xyz[part], good=pixels.good[part], pixels_per_mm=pixels.pixels_per_mm)


def _enlarged(view: Image, part: ZonePixels) -> Image:
    """At the pictures' own scale, whatever the capture's."""
    return _scaled(view, VIEW_PIXELS_PER_MM / part.pixels_per_mm)


def _scaled(view: Image, factor: float) -> Image:
    import cv2

    size = (max(1, round(view.shape[1] * factor)), max(1, round(view.shape[0] * factor)))
    return np.asarray(cv2.resize(view, size, interpolation=cv2.INTER_CUBIC if factor > 1 else cv2.INTER_AREA))


def _stretched(part: ZonePixels) -> Image:
    """The same colours with their unevenness of L* stretched to the whole range."""
    light = lightness(part.xyz[..., 1])
    use = light[part.good] if part.good.any() else light
    middle, spread = float(use.mean()), max(float(use.std()), _LEAST_SPREAD)
    wanted = np.clip(55 + (light - middle) * (40 / (_STRETCH_SDS * spread)), 3, 97)
    return xyz_to_srgb8(part.xyz * (_luminance(wanted) / np.maximum(part.xyz[..., 1], 1e-3))[..., None].astype(np.float32))[0]


def _luminance(light: Floats) -> Floats:
    """Y of L* (CIE 15:2018, 8.2.1)."""
    return np.asarray(np.where(light > 8, 100 * ((light + 16) / 116) ** 3, 100 * light / 903.3))


def _off_the_path(limited: ZonePixels, path: PixelPath, paper: Floats) -> Image:
    """Even grey where a pixel's colour is the path's at its depth; coloured by the way in which it departs."""
    off = off_path(limited, path, paper)
    share = np.clip(off / _FULL_COLOUR_OFF, -1, 1)
    light = np.full(limited.good.shape, 62.0)
    lab = np.concatenate([light[..., None], 55 * share], axis=-1)
    return xyz_to_srgb8(_xyz_of(lab).astype(np.float32))[0]


def _xyz_of(lab: Floats) -> Floats:
    """XYZ (..., 3) of L*a*b* lighter than 8 (CIE 15:2018, 8.2.1)."""
    y = (lab[..., 0] + 16) / 116
    return np.asarray(np.stack([y + lab[..., 1] / 500, y, y - lab[..., 2] / 200], axis=-1) ** 3 * WHITE_D50)


def _components(part: ZonePixels, paper: Floats, parted: Separation) -> dict[str, Image]:
    """Each component's own layer as if it lay alone on the paper."""
    if len(parted.components) != 2:
        return {}
    ends, amounts = layers_of(part, parted.components, paper)
    alone = {}
    for number, end in enumerate(ends):
        xyz = paper * 10 ** -(amounts[..., number, None] * end)
        alone[f"component-{number + 1}"] = xyz_to_srgb8(xyz.astype(np.float32))[0]
    return alone


def _side(light: LitShot) -> str:
    if light.azimuth_deg is not None:
        return f"{round(light.azimuth_deg) % 360:03d}"
    return "low" if light.raking else "even"


def _under(light: LitShot, rect: Rect) -> Image:
    """The middle of a place in one light, as bright as its paper is."""
    width, height = min(VIEW_MM[0], rect.width - 1), min(VIEW_MM[1], rect.height - 1)
    x, y = rect.centre
    scale = min(light.capture.calibration.geometry.pixels_per_mm, VIEW_PIXELS_PER_MM)
    relative, _ = light.relative(Rect(x - width / 2, y - height / 2, width, height), scale)
    return _scaled(xyz_to_srgb8((relative * WHITE_D50).astype(np.float32))[0], VIEW_PIXELS_PER_MM / scale)
