"""`gelvet find`: the swatches of any old scan or photograph, as a layout to measure it by."""

import argparse
import json
from pathlib import Path
from typing import Any

from gelvet.cli.output import write_atomically
from gelvet.core.errors import LayoutError


def add_to(commands: Any) -> None:
    parser = commands.add_parser("find", help="find the swatches on a sheet without a printed card, and write a layout for them")
    parser.add_argument("image", type=Path)
    parser.add_argument("--id", dest="card_id", help="name of the sheet (default: the image's name)")
    scale = parser.add_mutually_exclusive_group()
    scale.add_argument("--size", metavar="WIDTHxHEIGHT", help="the sheet's size in millimetres")
    scale.add_argument("--dpi", type=float, help="pixels to the inch, where the file does not say so")
    parser.add_argument(
        "--corners", nargs=4, metavar="X,Y", help="the sheet's corners in pixels, clockwise from its top-left (default: as seen)"
    )
    parser.add_argument("--out", type=Path, required=True, help="folder for the layout")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    from gelvet.core.capture.reading import read_picture
    from gelvet.core.formats.card_layout import layout_from_document, layout_to_document
    from gelvet.core.loose_sheet.propose import Given, propose_layout

    name = options.card_id or options.image.stem
    if any(c in name for c in "/\\\0"):
        raise LayoutError(f"The name {name!r} cannot be part of a file name; use letters, digits and hyphens.")
    given = Given(
        corners_px=None if options.corners is None else tuple(_pair(text, ",", "--corners") for text in options.corners),
        size_mm=None if options.size is None else _length(options.size),
        pixels_per_mm=None if options.dpi is None else _positive(options.dpi, "--dpi") / 25.4,
    )
    document = layout_to_document(propose_layout(read_picture(options.image), name, given))
    layout = layout_from_document(document, str(options.image))
    options.out.mkdir(parents=True, exist_ok=True)
    path = options.out / f"{name}.card.json"
    write_atomically(path, json.dumps(document, indent=1, ensure_ascii=False) + "\n")
    unknown = layout.placement is not None and layout.placement.scale == "unknown"
    print(f"{path}: {len(layout.swatches)} swatches found{', its scale is unknown' if unknown else ''}; correct it, then measure with it")
    return 0


def _length(text: str) -> tuple[float, float]:
    width, height = _pair(text, "x", "--size")
    return _positive(width, "--size"), _positive(height, "--size")


def _pair(text: str, separator: str, option: str) -> tuple[float, float]:
    try:
        first, second = (float(part) for part in text.split(separator))
    except ValueError as problem:
        raise LayoutError(f"{option} {text!r} is not two numbers with {separator!r} between them; write 210{separator}148.") from problem
    return first, second


def _positive(value: float, option: str) -> float:
    if not 0 < value < 1e5:
        raise LayoutError(f"{option} must be a positive number.")
    return value
