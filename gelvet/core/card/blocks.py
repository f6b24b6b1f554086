"""What a swatch's row may hold: one block of zones for each test, with how wide its zones should be and may become."""

from dataclasses import dataclass, field
from typing import Any

from gelvet.core.card.layout import Axis


@dataclass(frozen=True, slots=True)
class BlockZone:
    """`width` and `least` in millimetres: what is comfortable, and what measuring still bears. `gap` lies before it."""

    suffix: str
    kind: str
    width: float
    least: float
    gap: float = 1.0
    axis: Axis | None = None
    extra: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Block:
    """A test as it lies on the card, and how it is told to a painter. It `needs` the zones of other tests beside it."""

    id: str
    title: str
    zones: tuple[BlockZone, ...]
    needs: tuple[str, ...] = ()


BARE_PAPER = BlockZone("paper", "paper", 9.0, 7.0, 0.0)
_MASSTONE = BlockZone("masstone", "masstone", 16.0, 11.0, 3.0)

# The three schools of taking a paint from masstone to wash; a row has one of them.
APPLICATIONS: dict[str, Block] = {
    "stroke": Block(
        "stroke",
        "one drawn-out stroke",
        (_MASSTONE, BlockZone("gradient", "gradient", 60.0, 28.0, 1.0, "+x"), BlockZone("wash", "wash", 32.0, 14.0)),
    ),
    "patches": Block(
        "patches",
        "heavy and light patches",
        (
            _MASSTONE,
            BlockZone("heavy", "wash", 46.0, 20.0, 1.0, None, {"strength": "heavy"}),
            BlockZone("light", "wash", 46.0, 20.0, 1.0, None, {"strength": "light"}),
        ),
    ),
    "steps": Block(
        "steps",
        "measured dilution steps",
        (
            _MASSTONE,
            *(BlockZone(f"step{i}", "step", 18.0, 10.0, 1.0, None, {"dilution": share}) for i, share in enumerate((0.5, 0.25, 0.12), 1)),
            BlockZone("wash", "wash", 32.0, 14.0),
        ),
    ),
}

TESTS: dict[str, Block] = {
    "hiding": Block(
        "hiding",
        "over the ink line",
        (
            BlockZone("ink", "ink", 7.0, 6.0, 4.0),
            BlockZone("over_ink", "over_ink", 9.0, 7.0, 0.0),
            BlockZone("beside_ink", "beside_ink", 9.0, 7.0),
        ),
    ),
    "wash-hiding": Block(
        "wash-hiding",
        "over the ink line in a wash",
        (
            BlockZone("over_ink_light", "over_ink", 9.0, 7.0, 3.0, None, {"strength": "light"}),
            BlockZone("beside_ink_light", "beside_ink", 9.0, 7.0, 1.0, None, {"strength": "light"}),
        ),
        needs=("hiding",),
    ),
    "lifting": Block("lifting", "lifting", (BlockZone("unlifted", "unlifted", 15.0, 9.0, 3.0), BlockZone("lifted", "lifted", 15.0, 9.0))),
    "dilution": Block(
        "dilution",
        "tinting strength, in dilution steps",
        tuple(
            BlockZone(f"dilution{i}", "step", 13.0, 9.0, 3.0 if i == 1 else 1.0, None, {"dilution": share})
            for i, share in enumerate((0.5, 0.25, 0.12), 1)
        ),
    ),
    "layers": Block(
        "layers",
        "layers",
        tuple(BlockZone(f"glaze{n}", "glaze", 13.0, 9.0, 3.0 if n == 1 else 1.0, None, {"layers": n}) for n in (1, 2, 3)),
    ),
    "layers-hiding": Block(
        "layers-hiding",
        "layers over the ink line",
        tuple(BlockZone(f"over_ink{n}", "over_ink", 9.0, 7.0, 3.0 if n == 1 else 0.0, None, {"layers": n}) for n in (1, 2, 3)),
        needs=("hiding", "layers"),
    ),
    "exposure": Block(
        "exposure",
        "in the light",
        (
            BlockZone("covered", "covered", 18.0, 11.0, 3.0),
            BlockZone("exposed", "exposed", 18.0, 11.0, 1.0, None, {"hours": 0.0}),
        ),
    ),
    "drops": Block(
        "drops",
        "drops of paint and of water",
        (BlockZone("wet_drop", "wet_drop", 17.0, 12.0, 3.0), BlockZone("water_drop", "water_drop", 17.0, 12.0)),
    ),
    "tilt": Block("tilt", "a tilted strip", (BlockZone("tilt", "tilt", 34.0, 20.0, 3.0, "+x"),)),
    "effects": Block(
        "effects",
        "salt, gauze and splatter",
        tuple(
            BlockZone(f"effect-{name}", "effect", 15.0, 11.0, 3.0 if name == "salt" else 1.0, None, {"effect": name})
            for name in ("salt", "gauze", "splatter")
        ),
    ),
    "black-paper": Block("black-paper", "on black paper", (BlockZone("black_paper", "black_paper", 15.0, 10.0, 4.0),)),
}
