"""`gelvet simulate`: the stand-in flatbed. Paints a card, scans it, writes the capture with its truth."""

import argparse
from pathlib import Path
from typing import Any


def add_to(commands: Any) -> None:
    parser = commands.add_parser("simulate", help="paint and scan simulated cards, with their truth")
    parser.add_argument("--out", type=Path, required=True, help="folder for the captures")
    parser.add_argument("--layout", type=Path, help="paint this card instead of a built one")
    parser.add_argument("--sheet", default="A5", help="A5 or A4 (default A5)")
    parser.add_argument("--swatches", type=int, default=5, help="paints on each built card (default 5)")
    parser.add_argument("--cards", type=int, default=1, help="how many cards (default 1)")
    parser.add_argument("--seed", type=int, default=1, help="another seed gives other paints and another device")
    parser.add_argument("--scanner", choices=["white-led", "three-led", "both"], default="both")
    parser.add_argument("--dpi", type=int, default=300)
    parser.add_argument("--no-spectra", action="store_true", help="write the reference target without spectra")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    import numpy as np

    from gelvet.core.card.builder import SwatchLabel, build_card
    from gelvet.core.errors import LayoutError
    from gelvet.core.formats.card_layout import read_layout
    from gelvet.core.simulate.files import simulate_scan, write_capture
    from gelvet.core.simulate.paint import invented_paint
    from gelvet.core.simulate.scanner import ScannerKind, random_scanner

    if not 75 <= options.dpi <= 1200:
        raise LayoutError(f"{options.dpi} dpi is beyond what the simulated flatbed does; choose 75 to 1200.")
    for index in range(options.cards):
        rng = np.random.default_rng([options.seed, index])
        stem = f"sim-{options.seed}-{index:03d}"
        if options.layout:
            layout = read_layout(options.layout)
        else:
            labels = [SwatchLabel(f"Simulated paint {i + 1}") for i in range(options.swatches)]
            layout = build_card(stem.upper(), options.sheet, labels)
        kinds: tuple[ScannerKind, ...] = ("white-led", "three-led")
        kind = kinds[index % 2] if options.scanner == "both" else options.scanner
        paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
        capture = simulate_scan(layout, paints, random_scanner(rng, kind, options.dpi), int(rng.integers(1 << 31)))
        print(write_capture(capture, options.out, stem, with_spectra=not options.no_spectra))
    return 0
