"""Whether a swatch reaches its paint's masstone, against the deepest that was ever measured of the paint."""

from collections.abc import Sequence
from dataclasses import dataclass

from gelvet.core.compare.wording import Phrase

# Two hands that both mean to lay a masstone differ by less than this in depth.
REACHED_SHARE = 0.9
# Less is not worth calling deeper.
_DEEPER_BY = 1.02


@dataclass(frozen=True, slots=True)
class MasstoneRecord:
    """Tint depth of one swatch's masstone; the `deepest` of the paint's others, and the card `where` it lies."""

    depth: float
    deepest: float
    where: str

    @property
    def reached(self) -> bool:
        return self.depth >= REACHED_SHARE * self.deepest


def masstone_record(depth: float | None, others: Sequence[tuple[float | None, str]]) -> MasstoneRecord | None:
    """`others` are depths and the cards that they are from; None where there is nothing to hold the masstone against."""
    known = [(d, where) for d, where in others if d is not None]
    if depth is None or not known:
        return None
    return MasstoneRecord(depth, *max(known))


def record_phrase(record: MasstoneRecord) -> Phrase:
    """The record in a sentence, tied to the value range that rests on the masstone."""
    if record.depth > _DEEPER_BY * record.deepest:
        said = f"Its masstone is the deepest measured so far: tint depth {record.depth:.2f}, before {record.deepest:.2f} on {record.where}."
    elif record.reached:
        said = f"Its masstone is reached: tint depth {record.depth:.2f} of {record.deepest:.2f} on {record.where}."
    else:
        said = (
            f"Its masstone is not reached: tint depth {record.depth:.2f}, where {record.where} has {record.deepest:.2f}; span and hue "
            "shift are those of a thinner layer."
        )
    return Phrase("value_range", said, 0)
