"""The command line as a person would run it, in this process."""

import contextlib
import io
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
