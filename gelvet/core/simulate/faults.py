"""The names of what can go wrong at a capture on purpose. Light to import: the command line offers them."""

from typing import Literal, get_args

Fault = Literal["glare", "thumb", "overexposed", "blur", "noise", "fall-off", "tilt", "coarse", "stain", "wrong-target", "white-balance"]
FAULTS: tuple[Fault, ...] = get_args(Fault)
