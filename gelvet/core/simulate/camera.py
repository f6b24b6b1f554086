"""A camera on a stand: where it stands, its lens, the light on the table, its sensor and what it makes of the picture."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.colour.spaces import SRGB_FROM_XYZ_D50, encode_srgb
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.lamp import Lamp, lit_by
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.scanner import edge_filter
from gelvet.core.simulate.sensor import add_noise, encoded, sharpened, strips
from gelvet.core.simulate.spectra import WAVELENGTHS_NM, band

CameraKind = Literal["daylight", "lamp-led"]
CameraTone = Literal["linear", "srgb", "camera"]
_TABLE = np.array([0.22, 0.21, 0.20])


@dataclass(frozen=True, slots=True, kw_only=True)
class Camera:
    """Settings of one camera and one photograph.

    `distance_mm` from lens to card sets the perspective. `distortion` is the relative radial shift at the image's corner
    (negative: barrel). `fall_off` is the share of the light lost at the card's darkest corner, `contrast` 0 to 0.5 how far
    the tone curve bends into toe and shoulder, `saturation` what the camera adds to the colours before that, `balance` a
    wrong white balance. `for_screen`, 0 to 1, is how far it takes its colours to a screen's primaries, beyond which nothing
    is kept. `fringes` is how much larger the lens draws red and blue than green; `sharpening` what the camera adds to its
    picture: so many times the difference to a blur of so many px.
    """

    kind: CameraKind = "daylight"
    pixels_per_mm: float = 20.0
    tilt_deg: float = 3.0
    tilt_toward_deg: float = 40.0
    rotation_deg: float = 1.0
    distance_mm: float = 650.0
    distortion: float = -0.01
    fall_off: float = 0.12
    light_from_deg: float = 200.0
    tone: CameraTone = "camera"
    contrast: float = 0.25
    saturation: float = 0.1
    for_screen: float = 0.0
    exposure: float = 0.88
    balance: tuple[float, float, float] = (1.0, 1.0, 1.0)
    blur_px: float = 0.65
    noise: float = 0.004
    margin_mm: float = 12.0
    fringes: tuple[float, float] = (0.0, 0.0)
    sharpening: tuple[float, float] = (0.0, 1.0)


def random_camera(rng: np.random.Generator, kind: CameraKind, *, tilt_to: float = 12.0, fall_off_to: float = 0.25) -> Camera:
    """A camera with random but ordinary settings."""
    tone: CameraTone = rng.choice(["linear", "srgb", "camera"], p=[0.2, 0.3, 0.5])
    lens = rng.spawn(1)[0]
    return Camera(
        kind=kind,
        pixels_per_mm=float(rng.uniform(18, 22)),
        tilt_deg=float(rng.uniform(0, tilt_to)),
        tilt_toward_deg=float(rng.uniform(0, 360)),
        rotation_deg=float(rng.uniform(-4, 4)),
        distance_mm=float(rng.uniform(450, 900)),
        distortion=float(rng.uniform(-0.03, 0.015)),
        fall_off=float(rng.uniform(0.02, fall_off_to)),
        light_from_deg=float(rng.uniform(0, 360)),
        tone=tone,
        contrast=float(rng.uniform(0.05, 0.4)),
        saturation=float(rng.uniform(0, 0.15)) if tone == "camera" else 0.0,
        exposure=float(rng.uniform(0.75, 0.95)),
        blur_px=float(rng.uniform(0.55, 0.9)),
        noise=float(rng.uniform(0.002, 0.006)),
        fringes=(float(lens.uniform(-4e-4, 4e-4)), float(lens.uniform(-4e-4, 4e-4))),
        sharpening=(float(lens.uniform(0.0, 0.8)) if tone == "camera" else 0.0, float(lens.uniform(0.8, 1.5))),
    )


def camera_weights(kind: CameraKind) -> Floats:
    """Spectral weights (n, 3): light times sensor, each channel 1 for a perfect white."""
    nm = WAVELENGTHS_NM
    if kind == "daylight":
        light = 1.05 - 0.25 * ((nm - 560) / 170) ** 2 + 0.12 * np.sin((nm - 430) / 35)
        red, green, blue = band(598, 52, 1.0) + 0.05 * band(450, 35, 1), band(532, 54, 1.0), band(462, 42, 1.0) + 0.03 * band(560, 60, 1)
    else:
        light = band(453, 18, 0.9) + band(580, 85, 1.0) + band(630, 40, 0.25)
        red, green, blue = band(603, 44, 1.0) + 0.03, band(538, 48, 1.0) + 0.03, band(458, 38, 1.0) + 0.02
    infrared_stop = 1 - edge_filter(675, 13)
    weights = np.stack([light * infrared_stop * f for f in (red, green, blue)], axis=1)
    return np.asarray(weights / weights.sum(axis=0))


def screen_matrix(kind: CameraKind) -> Floats:
    """Matrix (3, 3) from a camera's channels to a screen's primaries, as near as one comes; white stays white."""
    wanted = observer_d50(WAVELENGTHS_NM) @ SRGB_FROM_XYZ_D50.T
    matrix = np.linalg.lstsq(camera_weights(kind), wanted, rcond=None)[0]
    return np.asarray(matrix / matrix.sum(axis=0))


def photograph(card: PaintedCard, camera: Camera, seed: int, lamp: Lamp | None = None) -> Floats:
    """Linear light (h, w, 3) that the sensor catches of `card`, by room light or by one low `lamp` alone."""
    import cv2

    rng = np.random.default_rng(seed)
    lit = lit_by(card, lamp) if lamp else _softly_lit(card, rng)
    fine = card.pixels_per_mm / camera.pixels_per_mm
    soft = cv2.GaussianBlur(lit, (0, 0), camera.blur_px * fine)
    columns, rows = _card_places(card, camera)
    table = [float(v) for v in _TABLE]
    frame: Image = cv2.remap(soft, columns, rows, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=table)
    for channel, larger in zip((0, 2), camera.fringes, strict=True):
        if larger:
            x, y = (_drawn_larger(places, larger) for places in (columns, rows))
            plane = np.ascontiguousarray(soft[..., channel])
            frame[..., channel] = cv2.remap(plane, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT, borderValue=table[channel])
    frame *= (camera.exposure * np.array(camera.balance)).astype(np.float32)
    if lamp is None:
        frame *= _room_light(card, camera, columns, rows)
    add_noise(frame, camera.noise, rng)
    return np.asarray(frame)


def develop(linear: Floats, camera: Camera) -> Floats:
    """Code values 0 to 1 of what the sensor caught: the camera's colours and its tone curve."""
    code = encoded(linear, lambda light: _toned(light, camera))
    return code if camera.tone == "linear" else sharpened(code, *camera.sharpening)


def _toned(linear: Floats, camera: Camera) -> Floats:
    s = camera.saturation
    mixed = linear @ ((1 + s) * np.eye(3) - s / 3).astype(np.float32) if s else linear
    if camera.for_screen:
        mixed = mixed @ (np.eye(3) + camera.for_screen * (screen_matrix(camera.kind) - np.eye(3))).astype(np.float32)
    light = np.clip(mixed, 0, 1)
    if camera.tone == "linear":
        return light
    code = encode_srgb(light)
    if camera.tone == "camera":
        code *= (1 - camera.contrast) + camera.contrast * code * (3 - 2 * code)
    return code


def _softly_lit(card: PaintedCard, rng: np.random.Generator) -> Floats:
    """Room light from all sides shows hardly any relief; a few specks of dust lie on the card."""
    slope = np.gradient(card.relief, axis=0)
    shading = (1 + 0.003 * slope / max(float(slope.std()), 1e-6)).astype(np.float32)
    for _ in range(8):
        y, x = int(rng.integers(0, shading.shape[0] - 4)), int(rng.integers(0, shading.shape[1] - 4))
        shading[y : y + 2, x : x + 3] = 0.4
    return np.asarray(card.device * shading[..., None], dtype=np.float32)


def frame_size(card: PaintedCard, camera: Camera) -> tuple[int, int]:
    """Width and height of the picture in pixels, with room for the tilted card."""
    grow = 1 + abs(np.sin(np.radians(camera.tilt_deg))) * 0.25 + abs(np.sin(np.radians(camera.rotation_deg))) * 0.8
    width, height = (round((side * grow + 2 * camera.margin_mm) * camera.pixels_per_mm) for side in card.layout.size_mm)
    return width, height


def _pose(camera: Camera) -> Floats:
    """Homography (3, 3) from card mm about its centre to the undistorted image plane in mm at the card's distance."""
    tilt, toward, turn = (np.radians(v) for v in (camera.tilt_deg, camera.tilt_toward_deg, camera.rotation_deg))
    axis = np.array([[np.cos(toward), -np.sin(toward), 0], [np.sin(toward), np.cos(toward), 0], [0, 0, 1]])
    lean = np.array([[np.cos(tilt), 0, np.sin(tilt)], [0, 1, 0], [-np.sin(tilt), 0, np.cos(tilt)]])
    roll = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    rotation = roll @ axis @ lean @ axis.T
    plane = np.column_stack([rotation[:, 0], rotation[:, 1], [0, 0, camera.distance_mm]])
    plane[2] /= camera.distance_mm
    return np.asarray(plane)


def _card_places(card: PaintedCard, camera: Camera) -> tuple[Floats, Floats]:
    """For each picture pixel the column and the row (h, w) float32 of the fine card pixel that it sees."""
    width, height = frame_size(card, camera)
    centre = np.array([width / 2 - 0.5, height / 2 - 0.5])
    corner = float(np.linalg.norm(centre))
    across = (np.arange(width) - centre[0]) / corner
    back = np.linalg.inv(_pose(camera))
    columns, rows = (np.empty((height, width), dtype=np.float32) for _ in range(2))
    for strip in strips(height):
        down = (np.arange(strip.start, strip.stop) - centre[1])[:, None] / corner
        # The lens moves a point at radius r to r (1 + k r²); `ideal` is the share by which it must go back, by Newton's method.
        bent = camera.distortion * (across**2 + down**2)
        ideal = 1 - bent
        for _ in range(3):
            square = bent * ideal * ideal
            ideal = (1 + 2 * square * ideal) / (1 + 3 * square)
        x_mm, y_mm = (along * ideal * (corner / camera.pixels_per_mm) for along in (across, down))
        depth = back[2, 0] * x_mm + back[2, 1] * y_mm + back[2, 2]
        for axis, places in ((0, columns), (1, rows)):
            card_mm = (back[axis, 0] * x_mm + back[axis, 1] * y_mm + back[axis, 2]) / depth + card.layout.size_mm[axis] / 2
            places[strip] = card_mm * card.pixels_per_mm - 0.5
    return columns, rows


def _drawn_larger(places: Floats, larger: float) -> Floats:
    """A map (h, w) float32 of a picture drawn larger about its centre by this share, all but its outermost pixels; the map itself is
    nearly straight."""
    height, width = places.shape
    # Differences are taken over two pixels.
    x, y = (np.float32(larger / 2) * (np.arange(1, n - 1, dtype=np.float32) - (n - 1) / 2) for n in (width, height))
    drawn = places.copy()
    for rows in strips(height):
        drawn[rows, 1:-1] -= (places[rows, 2:] - places[rows, :-2]) * x
    for rows in strips(height - 2):
        first, last = rows.start, rows.stop
        drawn[first + 1 : last + 1] -= (places[first + 2 : last + 2] - places[first:last]) * y[rows, None]
    return np.asarray(drawn)


def _room_light(card: PaintedCard, camera: Camera, columns: Floats, rows: Floats) -> Floats:
    """Relative light (h, w, 1): stronger on the side of the window, and the lens darkens the corners."""
    scale = [np.float32(2 / (card.pixels_per_mm * side)) for side in card.layout.size_mm]
    x, y = ((places + np.float32(0.5)) * s - 1 for places, s in zip((columns, rows), scale, strict=True))
    window = np.radians(camera.light_from_deg)
    across = (x * np.float32(np.cos(window)) + y * np.float32(np.sin(window))) / np.float32(np.sqrt(2))
    vignette = (x * x + y * y) / 2
    light = (1 - camera.fall_off * 0.4 * vignette) / (1 + camera.fall_off * 0.55 * (1 - across))
    return np.asarray(light, dtype=np.float32)[..., None]
