"""A flatbed scanner: lamp, sensors that are not an observer, optics, noise, an unknown tone curve."""

from dataclasses import dataclass
from math import cos, radians, sin
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.colour.spaces import encode_srgb
from gelvet.core.simulate.flakes import light_up
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.sensor import add_noise, encoded, sharpened, sixteen_bit
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, band

# Sine of the turn from which on a card lies across the glass.
_ACROSS = 0.7
_LAMP_ELEVATION_DEG = 45.0

ScannerKind = Literal["white-led", "three-led"]
ToneCurve = Literal["linear", "srgb", "gamma-1.8", "gamma-2.2"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Scanner:
    """Settings of one device and one scan. Lengths in scan pixels where the name says so.

    `row_lag_px` is how much further down the page red and blue are read than green; `sharpening` what the driver adds to the stored
    values: so many times the difference to a blur of so many px.
    """

    kind: ScannerKind = "white-led"
    dpi: int = 300
    tone: ToneCurve = "srgb"
    blur_px: float = 0.55
    noise: float = 0.0025
    rotation_deg: float = 0.4
    fall_off: float = 0.03
    relief_shading: float = 0.010
    margin_mm: float = 4.0
    exposure: float = 0.97
    row_lag_px: tuple[float, float] = (0.0, 0.0)
    sharpening: tuple[float, float] = (0.0, 1.0)


def random_scanner(rng: np.random.Generator, kind: ScannerKind, dpi: int = 300) -> Scanner:
    """A device of `kind` with random but ordinary settings."""
    rows = rng.spawn(1)[0]
    return Scanner(
        kind=kind,
        dpi=dpi,
        tone=rng.choice(["linear", "srgb", "gamma-1.8", "gamma-2.2"]),
        blur_px=float(rng.uniform(0.45, 0.8)),
        noise=float(rng.uniform(0.001, 0.004)),
        rotation_deg=float(rng.uniform(-1.5, 1.5)),
        fall_off=float(rng.uniform(0, 0.06)),
        relief_shading=float(rng.uniform(0.003, 0.014)),
        margin_mm=float(rng.uniform(2, 6)),
        row_lag_px=(float(rows.uniform(-0.25, 0.25)), float(rows.uniform(-0.25, 0.25))),
        # Every other driver sharpens unless it is told not to.
        sharpening=(float(max(rows.uniform(-0.8, 0.8), 0.0)), float(rows.uniform(0.8, 1.5))),
    )


def device_weights(kind: ScannerKind) -> Floats:
    """Spectral weights (n, 3): lamp times sensor, each channel 1 for a perfect white."""
    if kind == "three-led":
        # A grey sensor lit by three narrow lamps in turn.
        weights = np.stack([band(624, 26, 1), band(536, 38, 1), band(458, 27, 1)], axis=1)
    else:
        lamp = band(452, 17, 1.0) + band(565, 80, 0.75)
        red = edge_filter(588, 10) + 0.03 * band(450, 40, 1)
        green = band(533, 42, 1.0) + 0.02
        blue = band(455, 42, 1.0) + 0.015
        infrared_stop = 1 - edge_filter(682, 12)
        weights = np.stack([lamp * infrared_stop * f for f in (red, green, blue)], axis=1)
    return np.asarray(weights / weights.sum(axis=0))


def edge_filter(at_nm: float, width_nm: float) -> Floats:
    """Transmittance (n,) of a long-pass dye filter."""
    return np.asarray(1 / (1 + np.exp(-(WAVELENGTHS_NM - at_nm) / width_nm)))


def scan(card: PaintedCard, scanner: Scanner, seed: int) -> Image:
    """The scan (h, w, 3) uint16 of `card`, untagged."""
    import cv2

    rng = np.random.default_rng(seed)
    pixels = _shade(card, scanner, rng)
    fine_per_pixel = card.pixels_per_mm / (scanner.dpi / 25.4)
    soft = cv2.GaussianBlur(pixels, (0, 0), scanner.blur_px * fine_per_pixel)
    matrix, size = _placement(card, scanner)
    lid = [float(v) for v in (0.93, 0.93, 0.92)]
    inverse_linear = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    page: Image = cv2.warpAffine(soft, matrix, size, flags=inverse_linear, borderMode=cv2.BORDER_CONSTANT, borderValue=lid)
    for channel, lag in zip((0, 2), scanner.row_lag_px, strict=True):
        if lag:
            later = np.column_stack([matrix[:, :2], matrix[:, 2] + lag * matrix[:, 1]])
            plane = np.ascontiguousarray(soft[..., channel])
            page[..., channel] = cv2.warpAffine(
                plane, later, size, flags=inverse_linear, borderMode=cv2.BORDER_CONSTANT, borderValue=lid[channel]
            )
    page *= scanner.exposure * _illumination((size[1], size[0]), scanner, rng)
    add_noise(page, scanner.noise, rng)
    code = encoded(page, lambda light: encode_tone(np.clip(light, 0, 1), scanner.tone))
    return sixteen_bit(sharpened(code, *scanner.sharpening))


def _shade(card: PaintedCard, scanner: Scanner, rng: np.random.Generator) -> Floats:
    """Relief seen by a lamp on one side: slopes toward it are lighter. Printed matter and paint share it."""
    # The lamp rides with the sensor, on the side of the page's head.
    lamp_deg = 270.0 - scanner.rotation_deg
    down, across = np.gradient(card.relief)
    rise = cos(radians(lamp_deg)) * across + sin(radians(lamp_deg)) * down
    shading = 1 - scanner.relief_shading / max(float(rise.std()), 1e-9) * rise
    dust: Image = np.ones(card.relief.shape, dtype=np.float32)
    for _ in range(12):
        y, x = int(rng.integers(0, dust.shape[0] - 4)), int(rng.integers(0, dust.shape[1] - 4))
        dust[y : y + 2, x : x + 3] = 0.4
    lit = light_up(card.device, card.flakes, card.pixels_per_mm, lamp_deg, _LAMP_ELEVATION_DEG)
    return np.asarray(lit * (shading * dust)[..., None], dtype=np.float32)


def _placement(card: PaintedCard, scanner: Scanner) -> tuple[Floats, tuple[int, int]]:
    """Matrix (2, 3) from scan pixels to fine card pixels, and the scan's (width, height)."""
    ppmm = scanner.dpi / 25.4
    width = round((card.layout.size_mm[0] + 2 * scanner.margin_mm) * ppmm)
    height = round((card.layout.size_mm[1] + 2 * scanner.margin_mm) * ppmm)
    angle = np.radians(scanner.rotation_deg)
    if abs(np.sin(angle)) > _ACROSS:
        width, height = height, width
    scale = card.pixels_per_mm / ppmm
    turn = scale * np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    centre_scan = np.array([width / 2 - 0.5, height / 2 - 0.5])
    centre_card = np.array(card.layout.size_mm) / 2 * card.pixels_per_mm - 0.5
    return np.column_stack([turn, centre_card - turn @ centre_scan]), (width, height)


def _illumination(shape: tuple[int, int], scanner: Scanner, rng: np.random.Generator) -> Floats:
    y, x = np.mgrid[-1 : 1 : shape[0] * 1j, -1 : 1 : shape[1] * 1j].astype(np.float32)
    tilt = rng.uniform(-0.5, 0.5, 2)
    return np.asarray(1 - scanner.fall_off * (0.5 * x * x + 0.2 * y * y + 0.3 * (tilt[0] * x + tilt[1] * y)), dtype=np.float32)[..., None]


def encode_tone(linear: Floats, tone: ToneCurve) -> Floats:
    """Device code values 0 to 1 of linear light 0 to 1."""
    if tone == "linear":
        return linear
    if tone == "srgb":
        return encode_srgb(linear)
    return np.asarray(linear ** np.float32(1 / float(tone.removeprefix("gamma-"))))
