"""The lines of a swatch's row: where its tests are too many for the card's width, it goes on below."""

from dataclasses import replace
from itertools import combinations, pairwise

from gelvet.core.card.blocks import BARE_PAPER, Block, BlockZone
from gelvet.core.card.furniture import SIDE_MM
from gelvet.core.errors import LayoutError

Line = tuple[BlockZone, ...]


def in_lines(blocks: list[Block], usable: float) -> tuple[Line, ...]:
    """The blocks in their order on the fewest lines of `usable` mm that bear them, parted so that none is more crowded than it
    must be; each line has bare paper of its own. Raises LayoutError where one block alone is too wide."""
    for count in range(1, len(blocks) + 1):
        parted = [_parted(blocks, cuts) for cuts in combinations(range(1, len(blocks)), count - 1)]
        bearable = [lines for lines in parted if all(_least(line) <= usable for line in lines)]
        if bearable:
            return min(bearable, key=lambda lines: max(wanted_mm(line) for line in lines))
    least = max(_least(_line([block], 1)) for block in blocks) + 2 * SIDE_MM
    raise LayoutError(f"These tests need a card at least {least:.0f} mm wide; use a larger sheet or fewer tests.")


def _parted(blocks: list[Block], cuts: tuple[int, ...]) -> tuple[Line, ...]:
    ends = (0, *cuts, len(blocks))
    return tuple(_line(blocks[start:end], n) for n, (start, end) in enumerate(pairwise(ends), start=1))


def _line(blocks: list[Block], number: int) -> Line:
    paper = BARE_PAPER if number == 1 else replace(BARE_PAPER, suffix=f"line{number}.paper")
    return (paper, *(zone for block in blocks for zone in block.zones))


def _least(line: Line) -> float:
    return sum(z.least + z.gap for z in line)


def wanted_mm(line: Line) -> float:
    """Its comfortable width."""
    return sum(z.width + z.gap for z in line)
