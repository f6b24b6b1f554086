"""Large files in parts: a connection that breaks costs no more than the part that was on its way."""

import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from gelvet.site.captures.models import Upload
from gelvet.site.problems import Problem, not_found

_KEPT = timedelta(days=7)


def begin(name: str, size: int) -> Upload:
    """A new upload; those that were left unfinished for a week are given up."""
    if size <= 0:
        raise Problem("empty-file", f"{name} is empty (zero bytes); scan or copy it again.", 422)
    if size > settings.MAXIMUM_UPLOAD_BYTES:
        raise Problem("too-large", f"{name} is larger than {settings.MAXIMUM_UPLOAD_BYTES // 10**6} MB; scan at 300 to 1200 dpi.", 413)
    for old in Upload.objects.filter(started__lt=timezone.now() - _KEPT):
        _path(old.key).unlink(missing_ok=True)
        old.delete()
    upload = Upload.objects.create(name=name[:255], size=size)
    _path(upload.key).parent.mkdir(parents=True, exist_ok=True)
    _path(upload.key).touch()
    return upload


def find(key: uuid.UUID) -> Upload:
    upload = Upload.objects.filter(pk=key).first()
    if upload is None or not _path(key).exists():
        raise not_found("The upload")
    return upload


def received(upload: Upload) -> int:
    """Bytes that are safe on the disk."""
    return _path(upload.key).stat().st_size


def append(upload: Upload, offset: int, chunks: Iterable[bytes]) -> int:
    """Adds a part that starts at `offset`; returns the bytes received so far. A part that came before is not added twice."""
    with _path(upload.key).open("r+b") as file:
        have = file.seek(0, 2)
        if offset > have:
            raise Problem("gap", f"{upload.name} has come as far as byte {have}; go on from there.", 409)
        file.seek(offset)
        for chunk in chunks:
            if file.tell() + len(chunk) > upload.size:
                raise Problem("too-long", f"More of {upload.name} came than was announced; start it again.", 409)
            file.write(chunk)
        return file.seek(0, 2)


@contextmanager
def whole(upload: Upload) -> Iterator[Iterable[bytes]]:
    """The finished file's content; the parts are thrown away once it has been taken in."""
    have = received(upload)
    if have != upload.size:
        raise Problem("unfinished", f"{upload.name} has come as far as byte {have} of {upload.size}; go on from there.", 409)
    with _path(upload.key).open("rb") as file:
        yield iter(lambda: file.read(1 << 20), b"")
    _path(upload.key).unlink(missing_ok=True)
    upload.delete()


def _path(key: uuid.UUID) -> Path:
    return Path(settings.WORK_DIR) / "uploads" / str(key)
