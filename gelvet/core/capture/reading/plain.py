"""PNG, JPEG and WebP. Headers come from Pillow (which does not decode yet), pixels from OpenCV at full depth."""

import os
import struct
from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Image
from gelvet.core.capture.reading.colour_steps import ColourSteps
from gelvet.core.capture.reading.picture import Picture, check_size, finished, grey_refusal, short
from gelvet.core.capture.reading.provenance import provenance_of
from gelvet.core.errors import ImageError

_EXIF_IFD = 0x8769


def read_plain(path: Path, kind: str) -> Picture:
    """The picture in `path`, of which the first bytes show `kind`; raises ImageError."""
    import cv2
    from PIL import Image as Pillow
    from PIL import UnidentifiedImageError

    Pillow.MAX_IMAGE_PIXELS = None  # our own limit is checked on the header, before decoding
    warnings: list[str] = []
    try:
        with Pillow.open(path) as header:
            check_size(header.width, header.height, path)
            mode, header_size = header.mode, header.size
            steps = _colour_steps(getattr(header, "quantization", None), getattr(header, "layer", None)) if mode == "RGB" else None
            profile = header.info.get("icc_profile")
            stated = header.info.get("dpi")
            dpi = float(stated[0]) if isinstance(stated, tuple) and stated and float(stated[0]) > 0 else None
            exif = header.getexif()
            orientation = _whole(exif.get(274, 1))
            provenance = provenance_of({**exif, **exif.get_ifd(_EXIF_IFD)})
            if getattr(header, "n_frames", 1) > 1:
                warnings.append("The file is animated; only its first picture was used.")
    except ImageError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, struct.error, KeyError, TypeError, IndexError, EOFError,
            OverflowError, AttributeError, AssertionError, MemoryError, ZeroDivisionError) as problem:  # fmt: skip
        raise ImageError(f"{path} is damaged or not a complete {kind.upper()} ({short(problem)}); export it again.") from problem
    if mode in {"CMYK", "YCCK"}:
        raise ImageError(f"{path} is a CMYK image; export it as RGB.")
    if mode == "1":
        raise ImageError(f"{path} is a black-and-white (1-bit) image; scan it in colour, 16 bits a channel.")
    if mode in {"L", "LA", "I", "I;16", "I;16B", "F"}:
        raise grey_refusal(path)
    if mode in {"P", "PA"}:
        warnings.append("The image has a palette of few colours; scan in full colour for figures that can be trusted.")
    data = path.read_bytes()
    _refuse_open_end(data, path, kind)
    fine = _finely_decoded(data, (header_size[1], header_size[0])) if kind == "jpeg" else None
    if fine is not None:  # upright already
        return finished(
            fine, path, profile=profile, warnings=warnings, stated_dpi=dpi, provenance=provenance,
            coarse_colour=True, colour_steps=steps,
        )  # fmt: skip
    flags = cv2.IMREAD_COLOR_RGB | cv2.IMREAD_ANYDEPTH | cv2.IMREAD_IGNORE_ORIENTATION
    try:
        pixels = cv2.imdecode(np.frombuffer(data, dtype=np.uint8), flags)
    except (cv2.error, MemoryError) as problem:
        raise ImageError(f"{path} is damaged ({short(problem)}); export it again.") from problem
    if pixels is None:
        raise ImageError(f"{path} is damaged or cut short; copy or export it again.")
    return finished(
        pixels, path, profile=profile, orientation=orientation, warnings=warnings, stated_dpi=dpi, provenance=provenance,
        coarse_colour=kind in {"jpeg", "webp"}, colour_steps=steps,
    )  # fmt: skip


def _finely_decoded(data: bytes, shape: tuple[int, int]) -> Image | None:
    """A JPEG's pixels (h, w, 3) without the usual decoders' rounding; None where the file is of a rarer kind.

    Those round the colour difference of each block to whole steps before they turn it to RGB, which shifts red and blue of an
    even patch by up to one of 255 steps: about 1 ΔE. A lossless transcoding keeps the coefficients, and its decoder works
    in floating point and dithers.
    """
    import imagecodecs

    threads = os.cpu_count()
    try:
        pixels = np.asarray(imagecodecs.jpegxl_decode(imagecodecs.jpegxl_encode_jpeg(data, numthreads=threads), numthreads=threads))
    except imagecodecs.JpegxlError:
        return None
    return pixels if pixels.ndim == 3 and pixels.shape[2] == 3 and sorted(pixels.shape[:2]) == sorted(shape) else None


def _colour_steps(tables: Mapping[int, Sequence[int]] | None, layers: Sequence[tuple[int, int, int, int]] | None) -> ColourSteps | None:
    """From a JPEG's tables by number, and of each component its id, samples across and down, and table; None of other kinds."""
    if not tables or not layers or len(layers) != 3:
        return None
    (_, across, down, _), *differences = layers
    if any(table not in tables or len(tables[table]) != 64 or not h or not v for _, h, v, table in differences):
        return None
    steps = np.array([tables[table] for _, _, _, table in differences], dtype=float).reshape(2, 8, 8)
    return ColourSteps(steps, max(1, down // differences[0][2]), max(1, across // differences[0][1]))


def _whole(value: object) -> int:
    """An EXIF number; 1 (upright) where it is none."""
    return value if isinstance(value, int) else 1


def _refuse_open_end(data: bytes, path: Path, kind: str) -> None:
    """Decoders fill the missing part of a cut file with grey; the end mark tells."""
    cut = (
        (kind == "png" and b"IEND" not in data[-64:])
        or (kind == "jpeg" and b"\xff\xd9" not in data[-4096:])
        or (kind == "webp" and (len(data) < 12 or len(data) < struct.unpack("<I", data[4:8])[0]))
    )
    if cut:
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or export it again.")
