"""What goes wrong at a capture, on purpose: to learn what the gates say, and to try them.

A wrong target is the one fault that lies in neither device nor card: the card is painted with another target's patches.
"""

from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.card.layout import Rect
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.faults import Fault
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.scanner import Scanner

# Faults of the table and the light, which lie on the card itself.
_ON_THE_CARD = {"glare", "veil", "shadow", "two-lights", "thumb", "stain", "yellowed"}
_SKIN = np.array([0.45, 0.27, 0.19])
_TEA = np.array([0.90, 0.80, 0.62])
# What years by a window leave of the light of a target's patches.
_YELLOWED = np.array([0.97, 0.90, 0.62])
# What a lamp indoors sends of red, green and blue where a window sends one of each.
_WARM_LAMP = np.array([1.2, 1.0, 0.6])


def spoil_camera(camera: Camera, fault: Fault | None) -> Camera:
    """The camera's settings under `fault`; faults that lie on the card leave it alone."""
    match fault:
        case "overexposed":
            return replace(camera, exposure=1.25)
        case "underexposed":
            return replace(camera, exposure=0.07)
        case "blur":
            return replace(camera, blur_px=camera.pixels_per_mm * 0.19)
        case "noise":
            return replace(camera, noise=0.06)
        case "fall-off":
            return replace(camera, fall_off=0.75)
        case "tilt":
            return replace(camera, tilt_deg=32.0)
        case "coarse":
            return replace(camera, pixels_per_mm=5.5)
        case "white-balance":
            return replace(camera, balance=(1.45, 1.0, 0.7))
        case "narrow-colours":
            return replace(camera, for_screen=1.0)
        case _:
            return camera


def spoil_scanner(scanner: Scanner, fault: Fault | None) -> Scanner:
    """The scanner's settings under `fault`; a flatbed neither tilts nor fades much."""
    match fault:
        case "overexposed":
            return replace(scanner, exposure=1.3)
        case "blur":
            return replace(scanner, blur_px=scanner.dpi / 25.4 * 0.19)
        case "noise":
            return replace(scanner, noise=0.06)
        case "fall-off":
            return replace(scanner, fall_off=0.75)
        case "coarse":
            return replace(scanner, dpi=130)
        case _:
            return scanner


def spoil_card(card: PaintedCard, fault: Fault | None, seed: int) -> PaintedCard:
    """The card with glare or a shadow on it, a lamp beside the window, a thumb over a tag, a stain on its paper or yellowed patches."""
    if fault not in _ON_THE_CARD:
        return card
    rng = np.random.default_rng(seed)
    pixels = card.device.copy()
    if fault == "glare":
        _add(pixels, card.pixels_per_mm, _somewhere(card.layout.patches[len(card.layout.patches) // 2].rect, rng), 14.0, np.full(3, 0.55))
    elif fault == "veil":
        # A window mirrored over one side of the card: light is added, which deep paints show most.
        pixels += 0.12 * np.clip(1 - np.linspace(0, 1.7, pixels.shape[1], dtype=np.float32), 0, None)[None, :, None]
    elif fault == "shadow":
        _shade(pixels, card.pixels_per_mm, float(rng.uniform(0.35, 0.65)))
    elif fault == "two-lights":
        _light_besides(pixels, rng)
    elif fault == "yellowed":
        for patch in card.layout.patches:
            pixels[_samples(patch.rect, card.pixels_per_mm)] *= _YELLOWED.astype(np.float32)
    elif fault == "thumb":
        tag = card.layout.tags[int(rng.integers(len(card.layout.tags)))]
        _cover(pixels, card.pixels_per_mm, tag.rect.centre, 9.0, _SKIN)
    else:
        papers = card.layout.zones_of("paper")
        _cover(pixels, card.pixels_per_mm, papers[int(rng.integers(len(papers)))].rect.centre, 8.0, None)
    return replace(card, device=pixels)


def _shade(pixels: Image, pixels_per_mm: float, share: float) -> None:
    """Whoever holds the camera stands in the light of this share of the card; the rim is soft."""
    y, x = np.ogrid[: pixels.shape[0], : pixels.shape[1]]
    beyond = (x / pixels.shape[1] + 0.4 * y / pixels.shape[0] - 1.4 * (1 - share)) * pixels.shape[1] / pixels_per_mm
    pixels *= (1 - 0.4 * np.clip(0.5 + beyond / 4, 0, 1).astype(np.float32))[..., None]


def _light_besides(pixels: Image, rng: np.random.Generator) -> None:
    """On one side most of the light is a lamp's, on the other a window's."""
    away = np.linspace(-1, 1, pixels.shape[1], dtype=np.float32)[None, :, None] * rng.choice([-1, 1])
    share = 0.5 + 0.35 * away
    pixels *= (1 - share + share * _WARM_LAMP).astype(np.float32)


def _samples(rect: Rect, pixels_per_mm: float) -> tuple[slice, slice]:
    y, bottom, x, right = (round(edge * pixels_per_mm) for edge in (rect.y, rect.bottom, rect.x, rect.right))
    return slice(y, bottom), slice(x, right)


def _somewhere(rect: Rect, rng: np.random.Generator) -> tuple[float, float]:
    return rect.centre[0] + float(rng.uniform(-15, 15)), rect.centre[1] + float(rng.uniform(-2, 4))


def _disc(pixels: Image, pixels_per_mm: float, centre: tuple[float, float], radius_mm: float) -> Floats:
    """Distance (h, w) from `centre` in units of the radius."""
    y, x = np.ogrid[: pixels.shape[0], : pixels.shape[1]]
    across, down = (x + 0.5) / pixels_per_mm - centre[0], (y + 0.5) / pixels_per_mm - centre[1]
    return np.asarray(np.hypot(across, down) / radius_mm, dtype=np.float32)


def _add(pixels: Image, pixels_per_mm: float, centre: tuple[float, float], radius_mm: float, light: Floats) -> None:
    """A soft blotch of mirrored light."""
    strength = np.exp(-2 * _disc(pixels, pixels_per_mm, centre, radius_mm) ** 2)
    pixels += strength[..., None] * light.astype(np.float32)


def _cover(pixels: Image, pixels_per_mm: float, centre: tuple[float, float], radius_mm: float, colour: Floats | None) -> None:
    """Something with a soft rim lies on the card; without a `colour` it is a stain, which tints what is below."""
    share = np.clip((1.1 - _disc(pixels, pixels_per_mm, centre, radius_mm)) / 0.2, 0, 1)[..., None]
    over = pixels * _TEA.astype(np.float32) if colour is None else colour.astype(np.float32)
    pixels += share * (over - pixels)
