"""Pictures for the views, from the same calibrated pixels that gave the figures: deep-zoom tiles, zone crops, and linear
data for the probe. All of it can be made again from the original."""

import json
from pathlib import Path

import cv2
import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.card.layout import Rect
from gelvet.core.colour.spaces import xyz_to_srgb8

TILE = 256
PROBE_PIXELS_PER_MM = 6.0
CROP_INSET_MM = 0.4
_BAND_MM = 12.0


def write_pictures(capture: CalibratedCapture, folder: Path) -> None:
    """Everything for one measurement into `folder`."""
    folder.mkdir(parents=True, exist_ok=True)
    scale = capture.calibration.geometry.pixels_per_mm
    page = render_card(capture, scale)
    _write_pyramid(page, folder / "tiles")
    (folder / "crops").mkdir(exist_ok=True)
    for zone in capture.layout.zones:
        rows, columns = _slice(zone.rect.inset(CROP_INSET_MM), scale, page.shape)
        cv2.imwrite(str(folder / "crops" / f"{_safe(zone.id)}.jpg"), page[rows, columns, ::-1], [cv2.IMWRITE_JPEG_QUALITY, 95])
    small = cv2.resize(page, None, fx=4 / scale, fy=4 / scale, interpolation=cv2.INTER_AREA)
    cv2.imwrite(str(folder / "card.jpg"), small[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 90])
    np.save(folder / "xyz.npy", _probe_data(capture), allow_pickle=False)
    (folder / "scale.json").write_text(json.dumps({"pixels_per_mm": scale, "width": page.shape[1], "height": page.shape[0]}))


def render_card(capture: CalibratedCapture, pixels_per_mm: float) -> Image:
    """The whole card (h, w, 3) uint8 display RGB, in bands so that memory stays small."""
    width_mm, height_mm = capture.layout.size_mm
    bands = []
    for top in np.arange(0, height_mm, _BAND_MM):
        xyz, _ = capture.xyz(Rect(0, float(top), width_mm, min(_BAND_MM, height_mm - float(top))), pixels_per_mm)
        bands.append(xyz_to_srgb8(xyz)[0])
    return np.concatenate(bands)


def as_jpeg(picture: Image) -> bytes:
    """A small picture (h, w, 3) uint8 RGB for a view."""
    _, data = cv2.imencode(".jpg", picture[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
    return bytes(data)


def _probe_data(capture: CalibratedCapture) -> Floats:
    width_mm, height_mm = capture.layout.size_mm
    xyz, good = capture.xyz(Rect(0, 0, width_mm, height_mm), PROBE_PIXELS_PER_MM)
    xyz[~good] = np.nan
    return xyz.astype(np.float16)


def _slice(rect: Rect, scale: float, shape: tuple[int, ...]) -> tuple[slice, slice]:
    return (
        slice(max(0, round(rect.y * scale)), min(shape[0], round(rect.bottom * scale))),
        slice(max(0, round(rect.x * scale)), min(shape[1], round(rect.right * scale))),
    )


def _safe(name: str) -> str:
    """A zone id as a file name: letters, digits, point, hyphen; anything else by its code."""
    return "".join(c if (c.isalnum() and c.isascii()) or c in ".-" else f"_{ord(c):x}_" for c in name).lstrip(".") or "zone"


def write_views(views: dict[str, dict[str, Image]], folder: Path) -> None:
    """The pictures of what each swatch's figures rest on, as PNG: a reader may want to count pixels."""
    for swatch, pictures in views.items():
        place = folder / "views" / _safe(swatch)
        place.mkdir(parents=True, exist_ok=True)
        for name, picture in pictures.items():
            cv2.imwrite(str(place / f"{name}.png"), picture[..., ::-1])


def views_of(folder: Path, swatch: str) -> list[str]:
    """Names of the pictures that a swatch has; none where its measurement is from before there were any."""
    return sorted(path.stem for path in (folder / "views" / _safe(swatch)).glob("*.png"))


def view_path(folder: Path, swatch: str, name: str) -> Path:
    return folder / "views" / _safe(swatch) / f"{_safe(name)}.png"


def crop_path(folder: Path, zone_id: str) -> Path:
    return folder / "crops" / f"{_safe(zone_id)}.jpg"


def _write_pyramid(page: Image, folder: Path) -> None:
    """Square JPEG tiles without overlap, each level half the one above: level/column_row.jpg."""
    level = int(np.ceil(np.log2(max(page.shape[:2]))))
    picture = page
    while True:
        place = folder / str(level)
        place.mkdir(parents=True, exist_ok=True)
        for row in range(0, picture.shape[0], TILE):
            for column in range(0, picture.shape[1], TILE):
                tile = picture[row : row + TILE, column : column + TILE, ::-1]
                cv2.imwrite(str(place / f"{column // TILE}_{row // TILE}.jpg"), tile, [cv2.IMWRITE_JPEG_QUALITY, 92])
        if level == 0:
            return
        level -= 1
        height, width = max(1, -(-picture.shape[0] // 2)), max(1, -(-picture.shape[1] // 2))
        picture = cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA)


def probe(folder: Path, x_mm: float, y_mm: float, radius_mm: float = 0.5) -> tuple[Floats, int] | None:
    """Mean linear XYZ (3,) of a round aperture and its pixel count; None outside the card or where nothing was measured."""
    data = np.load(folder / "xyz.npy", mmap_mode="r", allow_pickle=False)
    reach = radius_mm * PROBE_PIXELS_PER_MM
    cx, cy = x_mm * PROBE_PIXELS_PER_MM - 0.5, y_mm * PROBE_PIXELS_PER_MM - 0.5
    if not (0 <= cx < data.shape[1] and 0 <= cy < data.shape[0]):
        return None
    x0, x1 = max(0, int(cx - reach)), min(data.shape[1], int(cx + reach) + 2)
    y0, y1 = max(0, int(cy - reach)), min(data.shape[0], int(cy + reach) + 2)
    part = np.asarray(data[y0:y1, x0:x1], dtype=float)
    y, x = np.mgrid[y0:y1, x0:x1]
    inside = (np.hypot(x - cx, y - cy) <= reach) & np.isfinite(part).all(axis=-1)
    if not inside.any():
        return None
    return part[inside].mean(axis=0), int(inside.sum())
