"""Small picture files of every kind, and ways to damage them."""

from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image as Pillow

from gelvet.core.arrays import Image
from tests.simulated import write_tiff

# Tags that make a mosaic a raw file (Digital Negative 1.4): version, matrix, light, black and white, name.
_RAW_TAGS = [
    (50706, "B", 4, (1, 4, 0, 0), True), (33421, "H", 2, (2, 2), True), (33422, "B", 4, (0, 1, 1, 2), True),
    (50721, "2i", 9, (1, 1, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 1, 1), True), (50778, "H", 1, 21, True),
    (50714, "H", 1, 0, True), (50717, "H", 1, 65535, True), (50708, "s", 10, "simulated", True),
]  # fmt: skip


def soft_pixels(seed: int = 0) -> Image:
    """(220, 260, 3) uint16, smooth."""
    noise = np.random.default_rng(seed).integers(0, 65535, (220, 260, 3)).astype(np.uint16)
    return np.asarray(cv2.GaussianBlur(noise, (0, 0), 5), dtype=np.uint16)


def write_raw(path: Path, pixels: Image) -> Path:
    """The red, green and blue mosaic of `pixels` (h, w, 3) uint16 as a raw file."""
    mosaic = pixels[..., 1].copy()
    mosaic[::2, ::2], mosaic[1::2, 1::2] = pixels[::2, ::2, 0], pixels[1::2, 1::2, 2]
    tifffile.imwrite(path, mosaic, photometric=32803, extratags=_RAW_TAGS)
    return path


def write_heif(path: Path, pixels: Image) -> Path:
    """`pixels` (h, w, 3) uint16 as HEIF of ten bits."""
    import pillow_heif

    height, width = pixels.shape[:2]
    pillow_heif.from_bytes("RGB;16", (width, height), pixels.tobytes()).save(path, quality=95)
    return path


def write_every_kind(folder: Path) -> list[Path]:
    """One small file of each kind that is read."""
    pixels = soft_pixels()
    eight = (pixels >> 8).astype(np.uint8)
    files = [
        write_tiff(folder / "deflate.tif", pixels, compression="zlib"), write_tiff(folder / "plain.tif", eight),
        write_tiff(folder / "float.tif", (pixels / 65535).astype(np.float32)),
        write_heif(folder / "telephone.heic", pixels), write_raw(folder / "camera.dng", pixels),
    ]  # fmt: skip
    for name, stored in (("sixteen.png", pixels), ("eight.png", eight), ("photo.jpg", eight), ("web.webp", eight)):
        cv2.imwrite(str(folder / name), stored[..., ::-1])
        files.append(folder / name)
    Pillow.fromarray(eight).quantize(32).save(folder / "palette.png")
    return [*files, folder / "palette.png"]


def damage(content: bytes, rng: np.random.Generator) -> bytes:
    """`content` with a few bytes changed, taken out, doubled, cut off, or lengths made huge."""
    data = bytearray(content)
    for _ in range(int(rng.integers(1, 5))):
        # Headers are where readers break: half of all damage falls there.
        at = int(rng.integers(0, min(400, len(data)) if rng.random() < 0.5 else len(data)))
        match int(rng.integers(6)):
            case 0:
                data[at] ^= 1 << int(rng.integers(8))
            case 1:
                data[at : at + 4] = rng.bytes(4)
            case 2:
                data[at : at + 4] = b"\xff\xff\xff\x7f"
            case 3:
                del data[at : at + int(rng.integers(1, 60))]
            case 4:
                data[at:at] = data[at : at + int(rng.integers(1, 60))]
            case _:
                del data[max(at, 40) :]
    return bytes(data) or b"\0"


def damaged_files(originals: list[Path], count: int, seed: int) -> Iterator[tuple[str, bytes]]:
    """Names and contents of `count` damaged files."""
    rng = np.random.default_rng(seed)
    contents = [(path.name, path.read_bytes()) for path in originals]
    for _ in range(count):
        name, content = contents[int(rng.integers(len(contents)))]
        yield name, damage(content, rng)
