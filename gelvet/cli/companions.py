"""Captures of one card given together: what it looked like wet or before lifting belongs to its dry measurement."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.errors import GelvetError
from gelvet.core.formats.capture_file import Capture, read_capture
from gelvet.core.formats.card_layout import read_layout


@dataclass(slots=True)
class Companions:
    """Flat shots of cards in another state than dry, by the card's id, as far as they could be measured themselves."""

    shots: dict[str, list[ShotFile]] = field(default_factory=dict)
    spoilt: dict[str, list[ShotFile]] = field(default_factory=dict)

    def keep(self, source: Path, state: str | None, *, failed: bool) -> None:
        """Remembers the flat shot of a measured capture that is not dry; `state` overrides the file's own, `failed` says that
        a gate did: such a shot counts only where there is no better one."""
        if source.suffix.lower() != ".json":
            return
        capture = read_capture(source)
        shot, now = capture.diffuse, state or capture.state
        if shot is not None and now != "dry":
            kept = self.spoilt if failed else self.shots
            kept.setdefault(read_layout(capture.layout_path).card_id, []).append(replace(shot, state=now))

    def of(self, card_id: str, capture: Capture) -> list[ShotFile]:
        """One shot of each state that the card's dry `capture` does not hold itself: of those that no gate failed the latest, first of all
        one of a file like the dry one's, which is more likely by the same device."""
        own, flat = {s.state for s in capture.shots}, capture.diffuse

        def unlike_first(shots: Sequence[ShotFile]) -> list[ShotFile]:
            return sorted(shots, key=lambda shot: flat is not None and shot.path.suffix.lower() == flat.path.suffix.lower())

        known = [*unlike_first(self.spoilt.get(card_id, ())), *unlike_first(self.shots.get(card_id, ()))]
        best = {s.state: s for s in known if s.state not in own}
        return list(best.values())


def dry_last(sources: Sequence[Path], state: str | None) -> list[Path]:
    """The captures in their order, those of wet paint before the dry ones that are told against them."""
    return sorted(sources, key=lambda source: (state or _state(source)) == "dry")


def _state(source: Path) -> str:
    if source.suffix.lower() != ".json":
        return "dry"
    try:
        return read_capture(source).state
    except GelvetError:  # told when its turn to be measured comes
        return "dry"
