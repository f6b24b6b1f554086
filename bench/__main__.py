"""`make bench`: accuracy and coverage on random simulated cards, the gates on spoilt ones, then the speed tables.

Nothing here is a timed test."""

import argparse
import secrets

from bench.accuracy import accuracy_table
from bench.gates import gates_table
from bench.layers import layers_table
from bench.planner import planner_table
from bench.same_card import same_card_table
from bench.speed import speed_table
from bench.texture import texture_table


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m bench", description=__doc__)
    parser.add_argument("--cards", type=int, default=10, help="random A5 cards of five swatches (default 10)")
    parser.add_argument("--captures", type=int, default=44, help="spoilt captures for the gates, and as many clean ones (default 44)")
    parser.add_argument("--seed", type=int, help="repeat an earlier run; without it every run has new paints and devices")
    parser.add_argument("--only", choices=["accuracy", "texture", "layers", "pairs", "gates", "speed", "planner"], help="one of the tables")
    options = parser.parse_args()
    seed = secrets.randbelow(10**6) if options.seed is None else options.seed
    if options.only in {None, "accuracy"}:
        print(accuracy_table(options.cards, seed), flush=True)
    if options.only in {None, "texture"}:
        print(texture_table(max(2, options.cards // 2), seed), flush=True)
    if options.only in {None, "layers"}:
        print(layers_table(max(2, options.cards // 3), seed), flush=True)
    if options.only in {None, "pairs"}:
        print(same_card_table(max(2, options.cards // 2), seed), flush=True)
    if options.only in {None, "gates"}:
        print(gates_table(options.captures, seed), flush=True)
    if options.only in {None, "speed"}:
        print(speed_table(seed), flush=True)
    if options.only in {None, "planner"}:
        print(planner_table(), flush=True)


if __name__ == "__main__":
    main()
