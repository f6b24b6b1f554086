"""HEIF, as telephones write it; 8 bits, or more kept as 16. The library turns the picture upright itself."""

import struct
from pathlib import Path

import numpy as np

from gelvet.core.capture.reading.picture import Picture, check_size, finished, grey_refusal, short
from gelvet.core.capture.reading.provenance import provenance_of
from gelvet.core.errors import ImageError

_EXIF_IFD = 0x8769


def read_heif(path: Path) -> Picture:
    """The primary picture of `path`; raises ImageError."""
    import pillow_heif

    warnings = []
    try:
        file = pillow_heif.open_heif(path, convert_hdr_to_8bit=False)
        check_size(int(file.size[0]), int(file.size[1]), path)
        if len(file) > 1:
            warnings.append("The file holds several pictures; only the main one was used.")
        if file.mode.startswith(("L", "I")):
            raise grey_refusal(path)
        pixels = np.asarray(file)
        profile = file.info.get("icc_profile")
        provenance = _provenance(file.info.get("exif"))
    except ImageError:
        raise
    except (RuntimeError, ValueError, OSError, EOFError, KeyError, TypeError, IndexError, SyntaxError, MemoryError, struct.error,
            AttributeError, OverflowError) as problem:  # fmt: skip
        raise ImageError(f"{path} is damaged or not a complete HEIF ({short(problem)}); export it again.") from problem
    return finished(pixels, path, profile=profile, warnings=warnings, provenance=provenance, coarse_colour=True)


def _provenance(exif: bytes | None) -> dict[str, str | float]:
    from PIL import Image as Pillow

    if not exif:
        return {}
    tags = Pillow.Exif()
    tags.load(exif)
    return provenance_of({**tags, **tags.get_ifd(_EXIF_IFD)})
