"""Writing results so that a full disk or a kill leaves the old file or the new one, never half."""

import os
import tempfile
from pathlib import Path

from gelvet.core.errors import UnreadableInput


class CannotWrite(UnreadableInput):
    """The result could not be stored; exit 2."""

    code = "cannot-write"


def write_atomically(path: Path, text: str) -> None:
    """Replaces `path` in one step; raises CannotWrite."""
    try:
        handle, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    except OSError as problem:
        raise CannotWrite(f"{path} cannot be written ({problem.strerror}); choose another folder.") from problem
    try:
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text)
        os.chmod(name, 0o644)
        os.replace(name, path)
    except OSError as problem:
        Path(name).unlink(missing_ok=True)
        raise CannotWrite(f"{path} cannot be written ({problem.strerror}); free some space or choose another folder.") from problem
