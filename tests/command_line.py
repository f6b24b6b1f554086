"""The command line as a person would run it, in this process."""

import atexit
import contextlib
import io
import shutil
import tempfile
from functools import lru_cache
from pathlib import Path

from gelvet.cli.main import main


def run(*arguments: str | Path) -> tuple[int, str, str]:
    """Exit status, standard output, standard error."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main([str(a) for a in arguments])
        except SystemExit as stop:
            status = int(stop.code or 0)
    return status, out.getvalue(), err.getvalue()


def simulated(folder: Path, *options: str) -> Path:
    """A capture in `folder` as `gelvet simulate` makes it, its own copy of what was made once for all tests of a process."""
    made = _simulated(options)
    shutil.copytree(made.parent, folder, dirs_exist_ok=True)
    return folder / made.name


@lru_cache
def _simulated(options: tuple[str, ...]) -> Path:
    folder = Path(tempfile.mkdtemp(prefix="gelvet-command-"))
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    status, printed, errors = run("simulate", "--out", folder, *options)
    assert status == 0, errors
    return Path(printed.strip())
