"""Camera raw: the sensor's own light, linear, neither brightened nor turned to a colour space: the fit does that better."""

from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.reading.picture import READABLE, Picture, check_size, finished, short
from gelvet.core.errors import ImageError


def is_raw(path: Path) -> bool:
    """Whether the raw library knows the file."""
    import rawpy

    try:
        with rawpy.imread(str(path)):
            return True
    except rawpy.LibRawError:
        return False


def read_raw(path: Path, provenance: dict[str, str | float] | None = None) -> Picture:
    """The developed mosaic of `path`, 16 bit; raises ImageError."""
    import rawpy

    try:
        with rawpy.imread(str(path)) as file:
            check_size(file.sizes.width, file.sizes.height, path)
            if file.color_desc[:3] != b"RGB" or file.num_colors < 3:
                raise ImageError(f"{path} comes from a sensor without red, green and blue; export it as a 16-bit TIFF.")
            pixels = file.postprocess(gamma=(1, 1), no_auto_bright=True, output_bps=16, output_color=rawpy.ColorSpace.raw, **_balance(file))
    except ImageError:
        raise
    except rawpy.LibRawFileUnsupportedError as problem:
        raise ImageError(f"{path} is not an image that Gelvet reads ({READABLE}); export it as a 16-bit TIFF.") from problem
    except (rawpy.LibRawError, RuntimeError, ValueError, OSError, MemoryError, TypeError) as problem:
        raise ImageError(f"{path} is a raw file that is damaged or cut short ({short(problem)}); copy it again.") from problem
    return finished(np.asarray(pixels), path, provenance=provenance, linear=True)


def _balance(file: Any) -> dict[str, Any]:
    """The camera's own white balance, which spares the colour between the sensor's pixels; none where the file has none."""
    if min(file.camera_whitebalance[:3]) > 0:
        return {"use_camera_wb": True}
    return {"user_wb": [1.0, 1.0, 1.0, 1.0]}
