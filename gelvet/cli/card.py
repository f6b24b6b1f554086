"""`gelvet card`: the printable PDF of a card and its layout."""

import argparse
import json
from pathlib import Path
from typing import Any

from gelvet.cli.output import write_atomically
from gelvet.core.card.blocks import APPLICATIONS, TESTS
from gelvet.core.errors import LayoutError


def add_to(commands: Any) -> None:
    parser = commands.add_parser("card", help="make a printable card and its layout")
    parser.add_argument("--id", required=True, dest="card_id", help="the card's id, for example MARRAM-014")
    parser.add_argument("--sheet", default="A5", help="A6, A5, A4, A3, or millimetres such as 200x150 (default A5)")
    parser.add_argument("--swatch", action="append", default=[], metavar="NAME|MAKER|PIGMENTS", help="one for each paint, in order")
    parser.add_argument(
        "--partner", action="append", default=[], metavar="NAME|MAKER|PIGMENTS", help="makes a mixing card: one for each column"
    )
    parser.add_argument(
        "--application", choices=list(APPLICATIONS), default="stroke", help="how masstone is taken to wash (default stroke)"
    )
    parser.add_argument("--test", action="append", choices=list(TESTS), help="one for each test (default hiding and lifting)")
    parser.add_argument("--frame", action="store_true", help="a window frame, cut out and laid over swatches on other paper")
    parser.add_argument("--out", type=Path, required=True, help="folder for the PDF and the layout")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    from gelvet.core.card.builder import Design, SwatchLabel, build_card
    from gelvet.core.card.mix_grid import build_mix_card
    from gelvet.core.card.printing import card_pdf
    from gelvet.core.formats.card_layout import layout_to_document

    if any(c in options.card_id for c in "/\\\0"):
        raise LayoutError(f"The card id {options.card_id!r} cannot be part of a file name; use letters, digits and hyphens.")
    labels = [SwatchLabel(*_parts(text)) for text in options.swatch]
    if options.partner:
        layout = build_mix_card(options.card_id, options.sheet, labels, [SwatchLabel(*_parts(text)) for text in options.partner])
    else:
        tests = tuple(options.test) if options.test is not None else ("hiding", "lifting")
        layout = build_card(options.card_id, options.sheet, labels, Design(options.application, tests, options.frame))
    options.out.mkdir(parents=True, exist_ok=True)
    write_atomically(
        options.out / f"{options.card_id}.card.json", json.dumps(layout_to_document(layout), indent=1, ensure_ascii=False) + "\n"
    )
    (options.out / f"{options.card_id}.pdf").write_bytes(card_pdf(layout))
    print(f"{options.card_id}: {len(layout.swatches)} swatches on {options.sheet}, in {options.out}")
    return 0


def _parts(text: str) -> tuple[str, str, tuple[str, ...]]:
    name, maker, pigments = [*text.split("|"), "", ""][:3]
    return name.strip(), maker.strip(), tuple(pigments.split())
