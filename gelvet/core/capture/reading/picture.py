"""A read picture: its pixels as stored, upright, and what the file says of itself."""

from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.reading.colour_steps import ColourSteps
from gelvet.core.errors import ImageError

# An A3 sheet at 1200 dpi is 278 megapixels; nothing larger is a scan of a swatch card.
MAXIMUM_PIXELS = 300_000_000
MINIMUM_SIDE = 200
# Every so many pixels each way are enough to tell a grey image.
_GREY_STEP = 13
READABLE = "TIFF, PNG, JPEG, WebP, HEIF or camera raw"
# ISO/IEC 23008-12 brands of still pictures.
_HEIF_BRANDS = {b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """`pixels` (h, w, 3) uint8 or uint16 device RGB as stored; `finite` (h, w) is False where a float file had NaN.

    `stated_dpi` is what the file says of itself, None where it says nothing; cameras and exports often say nonsense.
    `provenance` is what may be told of the camera and the exposure. `linear` is True for camera raw. `coarse_colour` where the
    file's coding keeps faint colour less finely than light, as JPEG, WebP and HEIF do; `colour_steps` how finely, where it says.
    """

    pixels: Image
    icc_profile: bytes | None = None
    finite: Image | None = None
    warnings: tuple[str, ...] = ()
    source: str = ""
    stated_dpi: float | None = None
    provenance: dict[str, str | float] = field(default_factory=dict)
    linear: bool = False
    coarse_colour: bool = False
    colour_steps: ColourSteps | None = None

    @property
    def full_scale(self) -> float:
        """The code value that means 1."""
        return float(np.iinfo(self.pixels.dtype).max)


def sniff(head: bytes) -> str | None:
    """The image format that the first 32 bytes or more show, whatever the file is called; "tiff" may turn out a raw."""
    if head[:4] in {b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"}:
        return "raw" if head[8:10] == b"CR" else "tiff"
    if head.startswith(b"\x89PNG\r\n\x1a\n"):
        return "png"
    if head.startswith(b"\xff\xd8\xff"):
        return "jpeg"
    if head.startswith(b"RIFF") and head[8:12] == b"WEBP":
        return "webp"
    if head[4:8] == b"ftyp":
        return "heif" if head[8:12] in _HEIF_BRANDS else "raw" if head[8:11] == b"crx" else None
    return None


def check_size(width: int, height: int, source: object) -> None:
    """Refuses what cannot be a scan before anything is decoded; raises ImageError."""
    if width * height > MAXIMUM_PIXELS:
        raise ImageError(f"{source} claims {width} × {height} pixels, more than any scan of a card needs; scan at 300 to 1200 dpi.")
    if min(width, height) < MINIMUM_SIDE:
        raise ImageError(f"{source} is only {width} × {height} pixels; scan the whole card at 300 dpi or more.")


def grey_refusal(path: Path) -> ImageError:
    """What to raise for a picture without colours."""
    return ImageError(f"{path} is a grey image; scan it in colour, 16 bits a channel.")


def finished(
    pixels: Image,
    path: Path,
    *,
    profile: bytes | None = None,
    orientation: int = 1,
    warnings: list[str] | None = None,
    stated_dpi: float | None = None,
    provenance: dict[str, str | float] | None = None,
    linear: bool = False,
    coarse_colour: bool = False,
    colour_steps: ColourSteps | None = None,
) -> Picture:
    """Three channels, a supported depth, upright; raises ImageError."""
    while pixels.ndim > 3 and pixels.shape[0] == 1:
        pixels = pixels[0]
    if pixels.ndim != 3 or pixels.shape[-1] < 3:
        raise ImageError(f"{path} has no three colour channels; scan it in colour.")
    pixels = pixels[..., :3]
    check_size(pixels.shape[1], pixels.shape[0], path)
    finite = None
    if pixels.dtype.kind == "f":
        pixels, finite = _finite_float(pixels.astype(np.float32), path)
    elif pixels.dtype in (np.dtype(np.uint32), np.dtype(np.int32)):
        pixels = (pixels.astype(np.uint32) >> 16).astype(np.uint16)
    elif pixels.dtype not in (np.dtype(np.uint8), np.dtype(np.uint16)):
        raise ImageError(f"{path} stores {pixels.dtype} numbers; export it with 8 or 16 bits a channel.")
    if _greys_alone(pixels):
        raise grey_refusal(path)
    return Picture(
        pixels=np.ascontiguousarray(upright(pixels, orientation)),
        icc_profile=profile or None,
        finite=None if finite is None else np.ascontiguousarray(upright(finite, orientation)),
        warnings=tuple(warnings or ()),
        source=str(path),
        stated_dpi=stated_dpi,
        provenance=provenance or {},
        linear=linear,
        coarse_colour=coarse_colour,
        colour_steps=colour_steps,
    )


def _greys_alone(pixels: Image) -> bool:
    """Whether three channels say the same thing, as in a grey image that was saved as a coloured one; no sensor does."""
    some = pixels[::_GREY_STEP, ::_GREY_STEP].astype(np.int32)
    step = np.iinfo(pixels.dtype).max // 255
    return bool(np.ptp(some, axis=-1).max() <= step and np.ptp(some) > step)


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


def short(problem: BaseException) -> str:
    """What a library said, fit for a sentence."""
    text = str(problem).splitlines()[0] if str(problem) else type(problem).__name__
    return text[:100]
