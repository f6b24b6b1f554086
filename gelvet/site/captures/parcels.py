"""Many files in one: a zip, taken apart with care."""

import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings

from gelvet.site.problems import Problem

MAXIMUM_FILES = 2000
# A picture hardly shrinks; what unpacks to so many times its size is made to fill a disk.
_MAXIMUM_RATIO = 300
_MAXIMUM_ALL_BYTES = 40 * 10**9
# How the zip library says that an archive is damaged, ends too soon, or is packed in a way that it cannot unpack.
_UNUSABLE = (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError)


@dataclass(frozen=True, slots=True)
class Part:
    """One file of a parcel: its content, or why it cannot be taken out."""

    name: str
    chunks: Iterator[bytes]
    problem: str = ""


def is_parcel(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(4) in {b"PK\x03\x04", b"PK\x05\x06"}


def unpack(path: Path, name: str) -> Iterator[Part]:
    """The files in the zip, one after the other; raises Problem where it is none or holds too much."""
    try:
        with zipfile.ZipFile(path) as parcel:
            entries = [e for e in parcel.infolist() if not e.is_dir() and not _is_hidden(e.filename)]
            if not entries:
                raise Problem("empty-zip", f"{name} holds no files.", 422)
            if len(entries) > MAXIMUM_FILES or sum(e.file_size for e in entries) > _MAXIMUM_ALL_BYTES:
                raise Problem("too-many", f"{name} holds more than {MAXIMUM_FILES} files or 40 GB; send it in parts.", 413)
            for entry in entries:
                yield _part(parcel, entry)
    except _UNUSABLE as problem:
        raise Problem("bad-zip", f"{name} is a damaged or unfinished zip; make it again.", 422) from problem


def _is_hidden(name: str) -> bool:
    parts = name.replace("\\", "/").split("/")
    return any(p.startswith((".", "__MACOSX")) and p not in {".", ".."} for p in parts)


def _part(parcel: zipfile.ZipFile, entry: zipfile.ZipInfo) -> Part:
    name = entry.filename.replace("\\", "/").rsplit("/", 1)[-1] or "unnamed"
    if entry.flag_bits & 1:
        return Part(name, iter(()), f"{name} is locked with a password; unpack it first.")
    if entry.file_size > settings.MAXIMUM_UPLOAD_BYTES or entry.file_size > _MAXIMUM_RATIO * max(entry.compress_size, 4096):
        return Part(name, iter(()), f"{name} would unpack to {entry.file_size / 1e6:.0f} MB, which no scan of a card needs.")
    return Part(name, _read(parcel, entry, name))


def _read(parcel: zipfile.ZipFile, entry: zipfile.ZipInfo, name: str) -> Iterator[bytes]:
    try:
        with parcel.open(entry) as file:
            while chunk := file.read(1 << 20):
                yield chunk
    except (*_UNUSABLE, OSError) as problem:
        raise Problem("bad-zip", f"{name} is damaged inside the zip; make it again.", 422) from problem
