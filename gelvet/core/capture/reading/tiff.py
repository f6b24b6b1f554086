"""TIFF: 8, 16 and 32 bit and float, any compression; camera raw in TIFF's clothes is handed on."""

import struct
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.reading.picture import Picture, check_size, finished, grey_refusal, short
from gelvet.core.capture.reading.provenance import provenance_of
from gelvet.core.errors import ImageError

_DNG_VERSION, _SUB_IFDS, _EXIF_IFD = 50706, 330, 34665


def read_tiff(path: Path) -> Picture:
    """The first page of `path`; raises ImageError."""
    import tifffile

    warnings: list[str] = []
    try:
        with tifffile.TiffFile(path) as file:
            page = file.pages[0]
            if not isinstance(page, tifffile.TiffPage):
                raise ImageError(f"{path} has no usable first page; export it again.")
            provenance = _provenance(page)
            if _is_raw(page):
                from gelvet.core.capture.reading.raw import read_raw

                return read_raw(path, provenance)
            check_size(page.imagewidth, page.imagelength, path)
            _refuse_kind(page, path)
            if len(file.pages) > 1 and file.pages[1].shape == page.shape:
                warnings.append("The file has several pages; only the first was used.")
            _refuse_truncated(page, path)
            pixels = page.asarray()
            palette = page.colormap
            profile = page.iccprofile
            orientation = int(page.tags.valueof(274, default=1) or 1)
            planar = page.planarconfig == tifffile.PLANARCONFIG.SEPARATE
            dpi = _dpi(page)
    except ImageError:
        raise
    except (MemoryError, RuntimeError, ValueError, KeyError, IndexError, TypeError, OSError, struct.error, tifffile.TiffFileError,
            AttributeError, ZeroDivisionError, OverflowError, AssertionError) as problem:  # fmt: skip
        raise ImageError(f"{path} is damaged or not a complete TIFF ({short(problem)}); export it again.") from problem
    if palette is not None and pixels.ndim == 2:
        pixels = _through_palette(pixels, np.asarray(palette), path)
        warnings.append("The image has a palette of few colours; scan in full colour for figures that can be trusted.")
    if planar and pixels.ndim == 3 and pixels.shape[0] in {3, 4}:
        pixels = np.moveaxis(pixels, 0, -1)
    return finished(pixels, path, profile=profile, orientation=orientation, warnings=warnings, stated_dpi=dpi, provenance=provenance)


def _through_palette(pixels: Any, palette: Any, path: Path) -> Any:
    if palette.ndim != 2 or palette.shape[0] < 3 or pixels.dtype.kind not in "ui" or int(pixels.max()) >= palette.shape[1]:
        raise ImageError(f"{path} has a palette that does not fit its pixels; export it again in full colour.")
    return np.moveaxis(palette[:3], 0, -1)[pixels]


def _is_raw(page: Any) -> bool:
    """A sensor's mosaic, as page or below it."""
    import tifffile

    mosaics = {tifffile.PHOTOMETRIC.CFA, tifffile.PHOTOMETRIC.LINEAR_RAW}
    if page.photometric in mosaics or _DNG_VERSION in page.tags:
        return True
    below = page.pages if page.tags.valueof(_SUB_IFDS) else None
    return any(getattr(p, "photometric", None) in mosaics for p in below or ())


def _provenance(page: Any) -> dict[str, str | float]:
    exif = page.tags.valueof(_EXIF_IFD)
    names = {t.code: t.value for t in page.tags}
    if isinstance(exif, dict):
        import tifffile

        numbers = {name: code for code, name in tifffile.TIFF.EXIF_TAGS.items()}
        names |= {numbers[name]: value for name, value in exif.items() if name in numbers}
    return provenance_of(names)


def _dpi(page: Any) -> float | None:
    """Dots an inch across, from the resolution tags; None where there are none or they have no unit."""
    value, unit = page.tags.valueof(282), int(page.tags.valueof(296, default=1) or 1)
    if not isinstance(value, tuple) or len(value) != 2 or not value[1] or unit not in {2, 3}:
        return None
    return float(value[0]) / float(value[1]) * (2.54 if unit == 3 else 1.0)


def _refuse_kind(page: Any, path: Path) -> None:
    import tifffile

    if page.photometric == tifffile.PHOTOMETRIC.SEPARATED:
        raise ImageError(f"{path} is a CMYK image; scan or export it as RGB.")
    if page.bitspersample == 1:
        raise ImageError(f"{path} is a black-and-white (1-bit) image; scan it in colour, 16 bits a channel.")
    if page.photometric in {tifffile.PHOTOMETRIC.MINISBLACK, tifffile.PHOTOMETRIC.MINISWHITE} and page.samplesperpixel < 3:
        raise grey_refusal(path)


def _refuse_truncated(page: Any, path: Path) -> None:
    """Some codecs fill what is missing with black: the strips must lie inside the file."""
    offsets, counts = page.dataoffsets, page.databytecounts
    size = path.stat().st_size
    if not offsets or any(o + c > size for o, c in zip(offsets, counts, strict=False)):
        raise ImageError(f"{path} is cut short: part of the picture is missing; copy or scan it again.")
