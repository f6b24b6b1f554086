"""Image files to arrays: TIFF, PNG, JPEG, WebP, HEIF and camera raw; 8 and 16 bit and float; upright, as RGB."""

from pathlib import Path

from gelvet.core.capture.reading.picture import READABLE, Picture, sniff
from gelvet.core.errors import ImageError

__all__ = ["Picture", "is_picture", "read_picture", "sniff"]


def read_picture(path: Path) -> Picture:
    """The first image in `path`; raises ImageError with one sentence."""
    try:
        with path.open("rb") as handle:
            head = handle.read(64)
    except OSError as problem:
        raise ImageError(f"{path} cannot be read ({problem.strerror}); check the name and the folder.") from problem
    if not head:
        raise ImageError(f"{path} is empty (zero bytes); scan or copy it again.")
    match sniff(head):
        case "tiff":
            from gelvet.core.capture.reading.tiff import read_tiff

            return read_tiff(path)
        case "png" | "jpeg" | "webp" as kind:
            from gelvet.core.capture.reading.plain import read_plain

            return read_plain(path, kind)
        case "heif":
            from gelvet.core.capture.reading.heif import read_heif

            return read_heif(path)
    # Raw formats have many marks of their own: the raw library knows them.
    from gelvet.core.capture.reading.raw import is_raw, read_raw

    if not is_raw(path):
        raise ImageError(f"{path} is not an image that Gelvet reads ({READABLE}); export it as a 16-bit TIFF.")
    return read_raw(path)


def is_picture(path: Path) -> bool:
    """Whether the first bytes are those of an image that can be read; nothing is decoded."""
    with path.open("rb") as handle:
        if sniff(handle.read(64)) is not None:
            return True
    from gelvet.core.capture.reading.raw import is_raw

    return is_raw(path)
