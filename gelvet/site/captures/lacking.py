"""What a card's tests still lack, and what more shots would tell. A card comes as `fetch.cards` gives it: with its captures,
and these with gates, shots and how those lay."""

from gelvet.core.angles import turn_deg
from gelvet.core.capture.shots.registered import lacking_shots, telling_shots
from gelvet.site.bench.models import Card, Question
from gelvet.site.captures.models import BEING_MEASURED, Capture, CaptureState
from gelvet.site.results.gates import any_failed


def lacks_of(card: Card) -> tuple[str, ...]:
    """What the card's tests still lack, in plain phrases."""
    captures, good = captures_of(card)
    kinds = _kinds(card)
    has_flat = bool(good) or any(c.paint_state == "dry" and c.state in BEING_MEASURED for c in captures)
    lacking = lacking_shots(kinds, card.session.question == Question.SPARKLE, _lamps_deg(captures), has_flat, _turns_deg(good))
    if not any(c.paint_state == "wet" for c in captures) and not has_flat:
        lacking.append("a flat shot while wet, if the drying shift matters")
    if "lifted" in kinds and "unlifted" not in kinds and not any(c.paint_state == "before_lifting" for c in captures):
        lacking.append("a flat shot before lifting")
    if not card.reference:
        lacking.append("the values of its reference target")
    return tuple(lacking)


def would_tell(card: Card) -> tuple[str, ...]:
    """What shots that no test of a card needs would tell besides, in plain phrases."""
    captures, good = captures_of(card)
    return tuple(telling_shots(_kinds(card), _lamps_deg(captures), _turns_deg(good)))


def captures_of(card: Card) -> tuple[list[Capture], list[Capture]]:
    """All, and those of the finished card that are measured and failed no gate."""
    captures = list(card.captures.all())
    return captures, [c for c in captures if c.state == CaptureState.DONE and c.paint_state == "dry" and not _failed(c)]


def _failed(capture: Capture) -> bool:
    """`capture` as the interface fetches it, with the gates of its newest measurement."""
    measurements = list(capture.measurements.all())
    gates = getattr(measurements[0], "gates", None) if measurements else None
    return any_failed(gates)


def _turned_deg(capture: Capture) -> list[float]:
    """How far the card lay turned on the capture's other shots in even light, as its newest measurement found them."""
    newest = next(iter(capture.measurements.all()), None)
    laid = getattr(newest, "laid", None) or []
    rotation = getattr(newest, "rotation_deg", None) or 0.0
    return [turn_deg(rotation, s["rotation_deg"]) for s in laid if s["light"] == "diffuse" and s["state"] == "dry"]


def _lamps_deg(captures: list[Capture]) -> list[float | None]:
    return [shot.azimuth_deg for c in captures if c.paint_state == "dry" for shot in c.shots.all() if shot.light == "rake"]


def _turns_deg(good: list[Capture]) -> list[float]:
    return [turn for capture in good for turn in _turned_deg(capture)]


def _kinds(card: Card) -> set[str]:
    return {zone["kind"] for zone in card.layout["zones"]}
