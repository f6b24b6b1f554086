"""`gelvet watch`: a folder that a scanner saves into, sorted to the cards of the application on this machine."""

import argparse
import os
import time
from pathlib import Path
from typing import Any

from gelvet.core.errors import UnreadableInput


def add_to(commands: Any) -> None:
    parser = commands.add_parser("watch", help="hand the files that a scanner saves in a folder to the application's inbox")
    parser.add_argument("folder", type=Path)
    parser.add_argument("--every", type=float, default=2.0, metavar="SECONDS", help="how often to look (default 2)")
    parser.add_argument("--once", action="store_true", help="hand on what is there, then end")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    if not options.folder.is_dir():
        raise UnreadableInput(f"{options.folder} is not a folder; give the one that the scanner saves into.")
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "gelvet.site.settings")
    import django

    django.setup()
    from django.core.management import call_command

    call_command("migrate", verbosity=0)
    from gelvet.site.captures.watching import WatchedFolder

    watched = WatchedFolder(options.folder)
    if not options.once:
        print(f"Watching {options.folder}; files stay there untouched. Stop with Ctrl-C.", flush=True)
    looks = 0
    while True:
        for arrival in watched.sweep():
            said = arrival.outcome if arrival.outcome.startswith(arrival.name) else f"{arrival.name}: {arrival.outcome}"
            print(said, flush=True)
        looks += 1
        if options.once and looks == 2:  # the first look only notes sizes, to leave alone what is still being written
            return 0
        time.sleep(min(options.every, 0.5) if options.once else options.every)
