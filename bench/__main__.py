"""`make bench`: the accuracy table on random simulated cards, then the speed table. Nothing here is a timed test."""

import argparse
import secrets

from bench.accuracy import accuracy_table
from bench.speed import speed_table


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m bench", description=__doc__)
    parser.add_argument("--cards", type=int, default=10, help="random A5 cards of five swatches (default 10)")
    parser.add_argument("--seed", type=int, help="repeat an earlier run; without it every run has new paints and devices")
    parser.add_argument("--only", choices=["accuracy", "speed"], help="one of the two tables")
    options = parser.parse_args()
    seed = secrets.randbelow(10**6) if options.seed is None else options.seed
    if options.only != "speed":
        print(accuracy_table(options.cards, seed), flush=True)
    if options.only != "accuracy":
        print(speed_table(seed), flush=True)


if __name__ == "__main__":
    main()
