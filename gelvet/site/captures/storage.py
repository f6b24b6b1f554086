"""Originals by content hash: written once, never altered."""

import errno
import hashlib
import os
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings

from gelvet.site.captures.models import Original
from gelvet.site.problems import Problem


def original_path(sha256: str) -> Path:
    return Path(settings.ORIGINALS_DIR) / sha256[:2] / sha256


def store_original(chunks: Iterable[bytes], name: str) -> tuple[Original, bool]:
    """The stored original and whether it is new. A full disk leaves nothing behind; raises Problem."""
    folder = Path(settings.ORIGINALS_DIR)
    folder.mkdir(parents=True, exist_ok=True)
    digest, size = hashlib.sha256(), 0
    handle, temporary = tempfile.mkstemp(dir=folder, prefix=".incoming-")
    try:
        with os.fdopen(handle, "wb") as file:
            for chunk in chunks:
                digest.update(chunk)
                size += len(chunk)
                _refuse_too_large(size, name)
                file.write(chunk)
            file.flush()
            os.fsync(file.fileno())
        if size == 0:
            raise Problem("empty-file", f"{name} is empty (zero bytes); scan or copy it again.", 422)
        sha256 = digest.hexdigest()
        final = original_path(sha256)
        if not final.exists():
            final.parent.mkdir(parents=True, exist_ok=True)
            os.chmod(temporary, 0o444)
            os.replace(temporary, final)
        original, new = Original.objects.get_or_create(sha256=sha256, defaults={"name": _plain_name(name), "size": size})
        return original, new
    except OSError as problem:
        raise _not_stored(problem, name) from problem
    finally:
        Path(temporary).unlink(missing_ok=True)


@contextmanager
def spooled(chunks: Iterable[bytes], name: str) -> Iterator[Path]:
    """A file for as long as it is looked at; raises Problem for one that is empty or too large."""
    folder = Path(settings.ORIGINALS_DIR)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=folder, prefix=".incoming-") as file:
        size = 0
        try:
            for chunk in chunks:
                size += len(chunk)
                _refuse_too_large(size, name)
                file.write(chunk)
            file.flush()
        except OSError as problem:
            raise _not_stored(problem, name) from problem
        if size == 0:
            raise Problem("empty-file", f"{name} is empty (zero bytes); scan or copy it again.", 422)
        yield Path(file.name)


def _refuse_too_large(size: int, name: str) -> None:
    if size > settings.MAXIMUM_UPLOAD_BYTES:
        raise Problem("too-large", f"{name} is larger than {settings.MAXIMUM_UPLOAD_BYTES // 10**6} MB; scan at 300 to 1200 dpi.", 413)


def _not_stored(problem: OSError, name: str) -> Problem:
    if problem.errno in {errno.ENOSPC, errno.EDQUOT}:
        sentence = f"The disk is full, so {name} was not stored; free some space and drop it again. Nothing else was lost."
        return Problem("disk-full", sentence, 507)
    return Problem("not-stored", f"{name} could not be stored ({problem.strerror}); check the data folder and drop it again.", 500)


def _plain_name(name: str) -> str:
    """The last part of whatever path a browser or system sent, without control characters."""
    last = name.replace("\\", "/").rsplit("/", 1)[-1]
    return "".join(c for c in last if c.isprintable())[:255] or "unnamed"
