"""Image files to arrays: TIFF, PNG, JPEG and WebP; 8 and 16 bit and float; upright, as RGB."""

import struct
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.errors import ImageError

# An A3 sheet at 1200 dpi is 278 megapixels; nothing larger is a scan of a swatch card.
MAXIMUM_PIXELS = 300_000_000
MINIMUM_SIDE = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """`pixels` (h, w, 3) uint8 or uint16 device RGB as stored; `finite` (h, w) is False where a float file had NaN."""

    pixels: Image
    icc_profile: bytes | None = None
    finite: Image | None = None
    warnings: tuple[str, ...] = ()
    source: str = ""

    @property
    def full_scale(self) -> float:
        """The code value that means 1."""
        return float(np.iinfo(self.pixels.dtype).max)


def read_picture(path: Path) -> Picture:
    """The first image in `path`; raises ImageError with one sentence."""
    try:
        with path.open("rb") as handle:
            head = handle.read(32)
    except OSError as problem:
        raise ImageError(f"{path} cannot be read ({problem.strerror}); check the name and the folder.") from problem
    if not head:
        raise ImageError(f"{path} is empty (zero bytes); scan or copy it again.")
    kind = sniff(head)
    if kind is None:
        raise ImageError(f"{path} is not an image that Gelvet reads (TIFF, PNG, JPEG, WebP); export it as a 16-bit TIFF.")
    return _read_tiff(path) if kind == "tiff" else _read_with_opencv(path, kind)


def sniff(head: bytes) -> str | None:
    """The image format that the first bytes show, whatever the file is called."""
    if head[:4] in {b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"}:
        return "tiff"
    if head.startswith(b"\x89PNG\r\n\x1a\n"):
        return "png"
    if head.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if head.startswith(b"RIFF") and head[8:12] == b"WEBP":
        return "webp"
    return None


def check_size(width: int, height: int, source: object) -> None:
    """Refuses what cannot be a scan before anything is decoded; raises ImageError."""
    if width * height > MAXIMUM_PIXELS:
        raise ImageError(f"{source} claims {width} × {height} pixels, more than any scan of a card needs; scan at 300 to 1200 dpi.")
    if min(width, height) < MINIMUM_SIDE:
        raise ImageError(f"{source} is only {width} × {height} pixels; scan the whole card at 300 dpi or more.")


def _read_tiff(path: Path) -> Picture:
    import tifffile

    warnings: list[str] = []
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages[0]
            if not isinstance(page, tifffile.TiffPage):
                raise ImageError(f"{path} has no usable first page; export it again.")
            check_size(page.imagewidth, page.imagelength, path)
            _refuse_tiff_kind(page, path)
            if len(file.pages) > 1 and file.pages[1].shape == page.shape:
                warnings.append("The file has several pages; only the first was used.")
            _refuse_truncated(page, path)
            pixels = page.asarray()
            palette = page.colormap
            profile = page.iccprofile
            orientation = int(page.tags.valueof(274, default=1) or 1)
            planar = page.planarconfig == tifffile.PLANARCONFIG.SEPARATE
    except ImageError:
        raise
    except (MemoryError, RuntimeError, ValueError, KeyError, IndexError, TypeError, OSError, struct.error, tifffile.TiffFileError,
            AttributeError, NotImplementedError, ZeroDivisionError) as problem:  # fmt: skip
        raise ImageError(f"{path} is damaged or not a complete TIFF ({_short(problem)}); export it again.") from problem
    if palette is not None and pixels.ndim == 2:
        pixels = np.moveaxis(np.asarray(palette), 0, -1)[pixels]
        warnings.append("The image has a palette of few colours; scan in full colour for figures that can be trusted.")
    if planar and pixels.ndim == 3 and pixels.shape[0] in {3, 4}:
        pixels = np.moveaxis(pixels, 0, -1)
    return _picture(pixels, profile, orientation, warnings, path)


def _refuse_tiff_kind(page: object, path: Path) -> None:
    import tifffile

    photometric = getattr(page, "photometric", None)
    bits = getattr(page, "bitspersample", 8)
    if photometric == tifffile.PHOTOMETRIC.SEPARATED:
        raise ImageError(f"{path} is a CMYK image; scan or export it as RGB.")
    if bits == 1:
        raise ImageError(f"{path} is a black-and-white (1-bit) image; scan it in colour, 16 bits a channel.")
    if photometric in {tifffile.PHOTOMETRIC.MINISBLACK, tifffile.PHOTOMETRIC.MINISWHITE} and getattr(page, "samplesperpixel", 1) < 3:
        raise ImageError(f"{path} is a grey image; scan it in colour, 16 bits a channel.")


def _refuse_truncated(page: object, path: Path) -> None:
    """Some codecs fill what is missing with black: the strips must lie inside the file."""
    offsets, counts = getattr(page, "dataoffsets", ()), getattr(page, "databytecounts", ())
    size = path.stat().st_size
    if not offsets or any(o + c > size for o, c in zip(offsets, counts, strict=False)):
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or scan it again.")


def _read_with_opencv(path: Path, kind: str) -> Picture:
    """PNG, JPEG and WebP. Headers come from Pillow (which does not decode yet), pixels from OpenCV at full depth."""
    import cv2
    from PIL import Image as Pillow
    from PIL import UnidentifiedImageError

    Pillow.MAX_IMAGE_PIXELS = None  # our own limit is checked on the header, before decoding
    warnings: list[str] = []
    try:
        with Pillow.open(path) as header:
            check_size(header.width, header.height, path)
            mode = header.mode
            profile = header.info.get("icc_profile")
            orientation = int(header.getexif().get(274, 1) or 1)
            if getattr(header, "n_frames", 1) > 1:
                warnings.append("The file is animated; only its first picture was used.")
    except ImageError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, struct.error, KeyError, TypeError, IndexError) as problem:
        raise ImageError(f"{path} is damaged or not a complete {kind.upper()} ({_short(problem)}); export it again.") from problem
    if mode in {"CMYK", "YCCK"}:
        raise ImageError(f"{path} is a CMYK image; export it as RGB.")
    if mode == "1":
        raise ImageError(f"{path} is a black-and-white (1-bit) image; scan it in colour, 16 bits a channel.")
    if mode in {"L", "LA", "I", "I;16", "I;16B", "F"}:
        raise ImageError(f"{path} is a grey image; scan it in colour, 16 bits a channel.")
    if mode in {"P", "PA"}:
        warnings.append("The image has a palette of few colours; scan in full colour for figures that can be trusted.")
    _refuse_open_end(path, kind)
    data = np.frombuffer(path.read_bytes(), dtype=np.uint8)
    flags = cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH | cv2.IMREAD_IGNORE_ORIENTATION
    try:
        pixels = cv2.imdecode(data, flags)
    except cv2.error as problem:
        raise ImageError(f"{path} is damaged ({_short(problem)}); export it again.") from problem
    if pixels is None:
        raise ImageError(f"{path} is damaged or cut short; copy or export it again.")
    if pixels.ndim != 3:
        raise ImageError(f"{path} is a grey image; scan it in colour, 16 bits a channel.")
    return _picture(cv2.cvtColor(pixels, cv2.COLOR_BGR2RGB), profile, orientation, warnings, path)


def _refuse_open_end(path: Path, kind: str) -> None:
    """Decoders fill the missing part of a cut file with grey; the end mark tells."""
    data = path.read_bytes()
    if kind == "png" and b"IEND" not in data[-64:]:
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or export it again.")
    if kind == "jpeg" and b"\xff\xd9" not in data[-4096:]:
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or export it again.")
    if kind == "webp" and len(data) < struct.unpack("<I", data[4:8])[0]:
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or export it again.")


def _picture(pixels: Image, profile: bytes | None, orientation: int, warnings: list[str], path: Path) -> Picture:
    """Three channels, a supported depth, upright."""
    while pixels.ndim > 3 and pixels.shape[0] == 1:
        pixels = pixels[0]
    if pixels.ndim != 3 or pixels.shape[-1] < 3:
        raise ImageError(f"{path} has no three colour channels; scan it in colour.")
    pixels = pixels[..., :3]
    finite = None
    if pixels.dtype.kind == "f":
        pixels, finite = _finite_float(pixels.astype(np.float32), path)
    elif pixels.dtype in (np.dtype(np.uint32), np.dtype(np.int32)):
        pixels = (pixels.astype(np.uint32) >> 16).astype(np.uint16)
    elif pixels.dtype not in (np.dtype(np.uint8), np.dtype(np.uint16)):
        raise ImageError(f"{path} stores {pixels.dtype} numbers; export it with 8 or 16 bits a channel.")
    return Picture(
        pixels=np.ascontiguousarray(upright(pixels, orientation)),
        icc_profile=profile or None,
        finite=None if finite is None else np.ascontiguousarray(upright(finite, orientation)),
        warnings=tuple(warnings),
        source=str(path),
    )


def _finite_float(pixels: Floats, path: Path) -> tuple[Image, Image | None]:
    good = np.asarray(np.isfinite(pixels).all(axis=-1))
    if not good.any():
        raise ImageError(f"{path} holds no finite number in any pixel; export it again.")
    largest = float(np.max(pixels[good]))
    if largest <= 0:
        raise ImageError(f"{path} is black throughout; scan it again.")
    # Float files come on a scale of 0 to 1, 0 to 255 or 0 to 65535; the tone curve is found later in any case.
    scale = next((s for s in (1.0, 255.0, 65535.0) if largest <= s), largest)
    cleaned = np.where(good[..., None], pixels, 0) * np.float32(65535 / scale)
    return (np.clip(cleaned, 0, 65535) + 0.5).astype(np.uint16), None if good.all() else good


def upright(pixels: Image, orientation: int) -> Image:
    """Applies an EXIF orientation 1 to 8 (Exif 2.32, 4.6.4 A); others are left alone."""
    if orientation in {5, 6, 7, 8}:
        pixels = pixels.swapaxes(0, 1)
    if orientation in {2, 3, 6, 7}:
        pixels = pixels[:, ::-1]
    if orientation in {3, 4, 7, 8}:
        pixels = pixels[::-1]
    return pixels


def _short(problem: BaseException) -> str:
    text = str(problem).splitlines()[0] if str(problem) else type(problem).__name__
    return text[:100]
