"""`gelvet`: measure, card, find, simulate and compare from a shell, serve and watch. Exit 0 done, 1 nothing measurable or a gate
failed, 2 wrong usage or unreadable input."""

import argparse
import logging
import sys
from collections.abc import Sequence

from gelvet.cli import card, compare, find, measure, serve, simulate, watch
from gelvet.cli.complaint import complain
from gelvet.core.errors import GelvetError, NothingMeasurable

# A library's own remarks on a damaged file would stand beside the one sentence that is said of it.
logging.getLogger("tifffile").addHandler(logging.NullHandler())
_COMMANDS = (measure, card, find, compare, simulate, serve, watch)


def build_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="gelvet", description="Measures painted watercolour swatch cards.")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for module in _COMMANDS:
        module.add_to(commands)
    return parser


def main(arguments: Sequence[str] | None = None) -> int:
    options = build_parser().parse_args(arguments)
    try:
        return int(options.run(options))
    except NothingMeasurable as problem:
        complain(str(problem))
        return 1
    except GelvetError as problem:
        complain(str(problem))
        return 2
    except OSError as problem:
        complain(f"{problem.filename or 'a file'} could not be used ({problem.strerror}).")
        return 2
    except KeyboardInterrupt:
        complain("stopped by hand; nothing was written for the unfinished capture.")
        return 2


if __name__ == "__main__":
    sys.exit(main())
