"""Whether two swatches may be compared, and what stands between them if not."""

from dataclasses import dataclass, fields
from typing import Literal

Weight = Literal["forbids", "warns", "notes"]


@dataclass(frozen=True, slots=True, kw_only=True)
class SwatchRecord:
    """How a swatch came to be. An empty value is unknown, and unknown is never taken for the same."""

    state: str = ""  # wet, dry
    tier: str = ""
    paper: str = ""
    side: str = ""
    woken: str = ""  # fresh, re-wetted
    application: str = ""
    mixing: str = ""
    wetness: str = ""
    painter: str = ""
    batch: str = ""
    device: str = ""
    painted: str = ""  # ISO date
    mishaps: tuple[str, ...] = ()  # what was written down at the bench


@dataclass(frozen=True, slots=True)
class Obstacle:
    """One thing in which two swatches differ, and how much that weighs."""

    field: str
    weight: Weight
    sentence: str


_TITLES: dict[str, tuple[str, Weight]] = {
    "state": ("one is wet, the other dry", "forbids"),
    "tier": ("their trust", "warns"),
    "paper": ("the paper", "warns"),
    "side": ("the paper's side", "warns"),
    "woken": ("fresh or re-wetted paint", "warns"),
    "application": ("how they were taken from masstone to wash", "warns"),
    "mixing": ("where the colours were mixed", "warns"),
    "wetness": ("wet on dry or into wet", "warns"),
    "painter": ("the painter", "notes"),
    "batch": ("the paint's batch", "notes"),
    "device": ("the device", "notes"),
    "painted": ("the day", "notes"),
}


def obstacles(one: SwatchRecord, two: SwatchRecord) -> list[Obstacle]:
    """What stands between two swatches, the heaviest first."""
    found = []
    for name in (f.name for f in fields(SwatchRecord) if f.name != "mishaps"):
        title, weight = _TITLES[name]
        first, second = getattr(one, name), getattr(two, name)
        if first and second and first != second:
            words = f"{title} ({first} and {second})"
            if name == "state":
                words = f"{title}: wet paint is darker and more vivid than it dries"
            found.append(Obstacle(name, weight, f"They differ in {words}." if name != "state" else f"{words[0].upper()}{words[1:]}."))
        elif name == "paper" and bool(first) != bool(second):
            found.append(Obstacle(name, "warns", "The paper of one of them is not known."))
    found += [Obstacle("mishaps", "warns", f"Noted at the bench: {words}.") for words in dict.fromkeys((*one.mishaps, *two.mishaps))]
    order = {"forbids": 0, "warns": 1, "notes": 2}
    return sorted(found, key=lambda o: order[o.weight])
