"""Gates: whether a capture may be believed, each with one sentence of advice."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gelvet.core.capture.drift import Drift
from gelvet.core.card.layout import Rect, Scale

GateState = Literal["pass", "warn", "fail"]

# A band limit of 3 cycles/mm with a gain of at most 3 allows this blur (measurement.md 4); twice that ruins grain and edges.
BLUR_WARN_MM = 0.079
BLUR_FAIL_MM = 0.16
# 300 dpi is 11.8 px/mm; below 150 dpi not even the tags' edges are resolved well.
RESOLUTION_WARN = 10.6
RESOLUTION_FAIL = 5.9
RESIDUAL_WARN_MEAN, RESIDUAL_WARN_P95 = 2.6, 6.5
RESIDUAL_FAIL_MEAN = 5.0
CLIPPED_WARN = 0.001
CLIPPED_FAIL = 0.02
NOISE_WARN_L = 1.2
FALL_OFF_WARN, FALL_OFF_FAIL = 0.32, 0.60
TILT_WARN_DEG, TILT_FAIL_DEG = 15.0, 28.0
PAPER_SHADE_WARN_DE = 1.5
GLARED_FAIL_SHARE = 0.25
REGISTRATION_WARN_MM = 0.1
DRIFT_WARN_DE, DRIFT_FAIL_DE = 2.5, 8.0


@dataclass(frozen=True, slots=True)
class Gate:
    """`where` are the places on the card that the gate speaks of, for its picture."""

    id: str
    state: GateState
    advice: str = ""
    value: float | None = None
    where: tuple[Rect, ...] = ()


def graded(gate_id: str, value: float, warn: float, fail: float, advice: str, where: Sequence[Rect] = ()) -> Gate:
    """A gate on a figure that should be small."""
    state: GateState = "fail" if value >= fail else "warn" if value >= warn else "pass"
    if state == "pass":
        return Gate(gate_id, state, value=round(value, 4))
    return Gate(gate_id, state, advice, round(value, 4), tuple(where))


def tags_gate(missing: list[int], where: Sequence[Rect] = ()) -> Gate:
    if not missing:
        return Gate("tags", "pass", value=0)
    names = ", ".join(str(i) for i in missing)
    those = f"Tag {names} is covered or missing; uncover it" if len(missing) == 1 else f"Tags {names} are covered or missing; uncover them"
    return Gate("tags", "warn", f"{those} and capture again for the best placement.", len(missing), tuple(where))


def glare_gate(names: Sequence[str], known: int, where: Sequence[Rect]) -> Gate:
    if not names:
        return Gate("glare", "pass", value=0)
    listed = ", ".join(names[:5]) + ("…" if len(names) > 5 else "")
    patches = f"Patch {listed} mirrors" if len(names) == 1 else f"Patches {listed} mirror"
    state: GateState = "fail" if len(names) > GLARED_FAIL_SHARE * max(known + len(names), 1) else "warn"
    advice = f"{patches} a lamp or window, and so may the paint; move the light to the side and shoot again."
    return Gate("glare", state, advice, len(names), tuple(where))


def drift_gate(moved: Drift, where: Sequence[Rect]) -> Gate:
    advice = (
        f"Patch {moved.patch} has moved by {moved.moved:.1f} ΔE against {moved.earlier} earlier captures of this target; clean the "
        "target and the glass, and measure the target anew if it stays."
    )
    return graded("drift", moved.moved, DRIFT_WARN_DE, DRIFT_FAIL_DE, advice, where)


def reference_gate(missing: list[str], known: int, where: Sequence[Rect] = ()) -> Gate:
    if known == 0:
        return Gate("reference", "fail", "No reference values are known for this card; add the target's measured CGATS file.", 0)
    if missing:
        names = ", ".join(missing[:5]) + ("…" if len(missing) > 5 else "")
        return Gate("reference", "warn", f"Patches {names} could not be used; measured without them.", len(missing), tuple(where))
    return Gate("reference", "pass", value=0)


def scale_gate(scale: Scale) -> Gate:
    if scale != "unknown":
        return Gate("scale", "pass")
    advice = "How large the sheet is was not said, so lengths mean nothing; click two points a known length apart."
    return Gate("scale", "warn", advice)


def resolution_gate(pixels_per_mm: float) -> Gate:
    dpi = pixels_per_mm * 25.4
    state: GateState = "fail" if pixels_per_mm < RESOLUTION_FAIL else "warn" if pixels_per_mm < RESOLUTION_WARN else "pass"
    advice = "" if state == "pass" else f"The card has only {dpi:.0f} pixels to the inch; scan at 300 dpi or more."
    return Gate("resolution", state, advice, round(pixels_per_mm, 3))


def focus_gate(blur_mm: float | None) -> Gate:
    if blur_mm is None:
        return Gate("focus", "warn", "The tags' edges are too small to judge the focus; scan at a higher resolution.")
    return graded(
        "focus", blur_mm, BLUR_WARN_MM, BLUR_FAIL_MM, "The image is soft; lay the card flat on the glass, clean it, and scan again."
    )


def residual_gate(mean: float, p95: float) -> Gate:
    advice = (
        "The reference patches do not come out as their file says; check that the file belongs to this target, "
        "that it is clean and flat, and scan again without automatic corrections."
    )
    if mean >= RESIDUAL_FAIL_MEAN:
        return Gate("residual", "fail", advice, round(mean, 3))
    state: GateState = "warn" if mean >= RESIDUAL_WARN_MEAN or p95 >= RESIDUAL_WARN_P95 else "pass"
    return Gate("residual", state, "" if state == "pass" else advice, round(mean, 3))


def clipping_gate(share: float, where: Sequence[Rect]) -> Gate:
    advice = "The brightest or darkest parts are clipped; turn automatic exposure off, or expose one step less, and shoot again."
    return graded("clipping", share, CLIPPED_WARN, CLIPPED_FAIL, advice, where)


def noise_gate(noise_l: float) -> Gate:
    return graded("noise", noise_l, NOISE_WARN_L, 4 * NOISE_WARN_L, "The image is noisy; scan slower or photograph with more light.")


def fall_off_gate(share: float, where: Sequence[Rect] = ()) -> Gate:
    advice = "The light falls off across the card; light it from both sides or move the lamp away, and shoot again."
    return graded("fall-off", share, FALL_OFF_WARN, FALL_OFF_FAIL, advice, where)


def tilt_gate(tilt_deg: float) -> Gate:
    return graded("tilt", tilt_deg, TILT_WARN_DEG, TILT_FAIL_DEG, "The card is seen at a slant; capture it square-on.")


def paper_shade_gate(spread_de: float, where: Sequence[Rect] = ()) -> Gate:
    advice = "The bare paper differs across the card; look for stains, shadows or splashes on the paper, and shoot again without them."
    return graded("paper-shade", spread_de, PAPER_SHADE_WARN_DE, 4 * PAPER_SHADE_WARN_DE, advice, where)


def registration_gate(shots: Sequence[tuple[str, float | None]]) -> Gate:
    """`shots` are names and distances in mm of the other shots from the flat one; None could not be judged."""
    far = [name for name, apart in shots if apart is not None and apart > REGISTRATION_WARN_MM]
    worst = max((apart for _, apart in shots if apart is not None), default=0.0)
    if not far:
        return Gate("registration", "pass", value=round(worst, 4))
    advice = (
        f"{', '.join(far)} does not lie on the flat shot (up to {worst:.2f} mm off); press the card flat, do not move it between "
        "the shots, and shoot again."
    )
    return Gate("registration", "fail" if worst > 5 * REGISTRATION_WARN_MM else "warn", advice, round(worst, 4))


def wet_gate(state: str) -> Gate:
    if state == "wet":
        return Gate("state", "warn", "The card was captured wet; capture it again when dry, nothing counts before.")
    return Gate("state", "pass")
