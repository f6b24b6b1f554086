"""The names of what can go wrong at a capture on purpose. Light to import: the command line offers them."""

from typing import Literal, get_args

Fault = Literal[
    "glare", "veil", "shadow", "two-lights", "thumb", "overexposed", "underexposed", "blur", "noise", "fall-off", "tilt", "coarse",
    "stain", "yellowed", "wrong-target", "white-balance", "narrow-colours",
]  # fmt: skip
FAULTS: tuple[Fault, ...] = get_args(Fault)
