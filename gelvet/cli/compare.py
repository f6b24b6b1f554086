"""`gelvet compare`: swatches of one or more measurements against each other."""

import argparse
from pathlib import Path
from typing import Any


def add_to(commands: Any) -> None:
    parser = commands.add_parser("compare", help="compare the swatches of measurements")
    parser.add_argument("measurement", nargs="+", type=Path, help="*.measure.json")
    parser.add_argument("--swatch", action="append", default=[], metavar="CARD/SWATCH", help="only these (two or more)")
    parser.add_argument("--figures", action="store_true", help="list every figure that both have, with its difference")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    from itertools import combinations

    from gelvet.cli.tables import difference_table
    from gelvet.core.compare.distance import compare_swatches
    from gelvet.core.compare.wording import difference_words
    from gelvet.core.errors import MeasurementFileError
    from gelvet.core.formats.measurement_file import read_measurement

    documents = [read_measurement(path) for path in options.measurement]
    swatches = {f"{d['card_id']}/{name}": s for d in documents for name, s in d["swatches"].items()}
    chosen = options.swatch or list(swatches)
    for name in chosen:
        if name not in swatches:
            raise MeasurementFileError(
                f"There is no swatch {name} in {', '.join(map(str, options.measurement))}; choose from {', '.join(swatches)}."
            )
    if len(chosen) < 2:
        raise MeasurementFileError("Comparing needs at least two swatches; add another measurement.")
    for first, second in combinations(chosen, 2):
        result = compare_swatches(swatches[first], swatches[second])
        distances = "  ".join(f"{d.place} {d.de00:.1f}" for d in result.distances if d.de00 is not None)
        print(f"{second} against {first}: ΔE00 {distances or '–'}")
        print(f"  {difference_words(result) or 'no difference that is real'}")
        if options.figures:
            print(difference_table(result))
    return 0
