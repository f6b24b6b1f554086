"""`gelvet serve`: the web application with its workers on this machine."""

import argparse
from typing import Any


def add_to(commands: Any) -> None:
    parser = commands.add_parser("serve", help="start the web application on this machine")
    parser.add_argument("--port", type=int, default=8000)
    parser.add_argument("--demo", action="store_true", help="load the Marram Coast demo first")
    parser.add_argument("--shared", metavar="ADDRESS", help="answer other machines at this host name or address; then everybody signs in")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    from gelvet.site.serving import serve

    return serve(port=options.port, demo=options.demo, shared=options.shared)
