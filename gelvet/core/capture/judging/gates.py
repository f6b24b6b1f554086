"""Gates: whether a capture may be believed, each with one sentence of advice."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gelvet.core.capture.judging.clipped_light import NOTHING_CLIPPED, ClippedLight
from gelvet.core.capture.judging.cut_colours import NOTHING_CUT, CutColours, said
from gelvet.core.capture.judging.drift import Drift
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
# Share of the whole card, patches or not.
CLIPPED_CARD_WARN = 0.005
NOISE_WARN_L = 1.2
FALL_OFF_WARN, FALL_OFF_FAIL = 0.32, 0.60
# By how much red or blue changes against green across the card: lenses come to a few hundredths, two lights to some tenths.
LIGHT_COLOUR_WARN = 0.10
TILT_WARN_DEG, TILT_FAIL_DEG = 15.0, 28.0
PAPER_SHADE_WARN_DE = 1.5
GLARED_FAIL_SHARE = 0.25
# Share of the bare paper that no smooth light explains, and mirrored light over a tag's black in units of the paper's: honest
# captures keep both at zero and below 0.001, and a veil of 0.04 makes a black paint a dark grey.
ODD_PAPER_FAIL_SHARE = 0.10
VEIL_WARN, VEIL_FAIL = 0.012, 0.04
# How far the tags may stand off one plane before zones are misplaced by as much as their soft rims.
FLATNESS_WARN_MM, FLATNESS_FAIL_MM = 0.1, 0.5
# The stored value of the brightest of paper and patches, of 1, in a file of 8 bits: below, dark paints have too few steps.
EXPOSURE_WARN, EXPOSURE_FAIL = 0.45, 0.33
# The same of more bits, linear or not: camera raw that is exposed for a grey world has its paper at 0.2.
EXPOSURE_OF_MANY_STEPS = 0.12, 0.03
# Levels of 255 to which a JPEG rounds the mean colour of a block.
COMPRESSION_WARN, COMPRESSION_FAIL = 2.0, 5.0
# No paper sends back more light than falls on it; brighteners lift its blue alone, by up to a seventh.
PAPER_LIMIT = (1.0, 1.0, 1.15)
PAPER_EXCESS_WARN, PAPER_EXCESS_FAIL = 0.03, 0.10
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


def glare_gate(names: Sequence[str], known: int, paper_share: float, veil: float, where: Sequence[Rect]) -> Gate:
    """`names` of the patches that mirror a light, of which `known` others do not; the share of the bare paper that does; and how much
    mirrored light, in units of the paper's, lies over the tag that shows most of it."""
    spots = len(names) + (paper_share > 0) + (veil >= VEIL_WARN)
    if spots == 0:
        return Gate("glare", "pass", value=0)
    if names:
        listed = ", ".join(names[:5]) + ("…" if len(names) > 5 else "")
        mirrors = f"Patch {listed} mirrors" if len(names) == 1 else f"Patches {listed} mirror"
    else:
        mirrors = (
            "The black of the tags is paler on one side: it mirrors"
            if veil >= VEIL_WARN
            else "Bare paper is too bright in places: it mirrors"
        )
    many = len(names) > GLARED_FAIL_SHARE * max(known + len(names), 1)
    failed = many or paper_share >= ODD_PAPER_FAIL_SHARE or veil >= VEIL_FAIL
    advice = f"{mirrors} a lamp or window, and so may the paint; move the light to the side and shoot again."
    return Gate("glare", "fail" if failed else "warn", advice, spots, tuple(where))


def drift_gate(moved: Drift, where: Sequence[Rect]) -> Gate:
    advice = (
        f"Patch {moved.patch} has moved by {moved.moved:.1f} ΔE against {moved.earlier} earlier captures of this target; clean the "
        "target and the glass, and measure the target anew if it stays."
    )
    return graded("drift", moved.moved, DRIFT_WARN_DE, DRIFT_FAIL_DE, advice, where)


def exchanged_gate(names: Sequence[str]) -> Gate:
    """`names` of the channels that the file holds in each other's place: no colour on the card is then the one that it seems."""
    which = f"{', '.join(names[:-1])} and {names[-1]}"
    advice = f"Against the reference patches the file's {which} stand in each other's place; save it again with its channels in order."
    return Gate("reference", "fail", advice, len(names))


def reference_gate(missing: list[str], known: int, enough: bool, where: Sequence[Rect] = ()) -> Gate:
    """`known` of the card's patches are in the reference file, `missing` are not or cannot be used; whether they carry a colour fit."""
    if not enough:
        if known:
            advice = f"Only {known} of the card's patches are in the reference file, too few to fit colours; add the whole file."
        elif missing:
            named = ", ".join(missing[:3])
            advice = f"The reference file names none of this card's patches ({named}…); choose the file of the target that lies on it."
        else:
            advice = "No reference values are known for this card; add the target's measured CGATS file."
        return Gate("reference", "fail", advice, known)
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
    advice = "" if state == "pass" else f"The card has only {dpi:.0f} pixels to the inch; scan at 300 dpi or more, or shoot from nearer."
    return Gate("resolution", state, advice, round(pixels_per_mm, 3))


def focus_gate(blur_mm: float | None) -> Gate:
    if blur_mm is None:
        return Gate("focus", "warn", "The tags' edges are too small to judge the focus; scan at a higher resolution, or shoot from nearer.")
    advice = (
        "The image is soft; lay the card flat on clean glass and scan again, or focus the camera on the card, hold it still, and "
        "shoot again."
    )
    return graded("focus", blur_mm, BLUR_WARN_MM, BLUR_FAIL_MM, advice)


def residual_gate(mean: float, p95: float, paper_excess: float) -> Gate:
    """`paper_excess` is by how much, by these colours, bare paper sends back more than the light that falls on it."""
    advice = (
        "The reference patches do not come out as their file says; check that the file belongs to this target, "
        "that it is clean and flat, and capture it again without automatic corrections."
    )
    if paper_excess >= PAPER_EXCESS_WARN:
        advice = (
            "By the reference patches the bare paper sends back more light than falls on it; check that the file belongs to this target, "
            "and that its patches have neither faded, yellowed nor become dirty."
        )
    state: GateState = "pass"
    if mean >= RESIDUAL_WARN_MEAN or p95 >= RESIDUAL_WARN_P95 or paper_excess >= PAPER_EXCESS_WARN:
        state = "fail" if mean >= RESIDUAL_FAIL_MEAN or paper_excess >= PAPER_EXCESS_FAIL else "warn"
    return Gate("residual", state, "" if state == "pass" else advice, round(mean, 3))


def clipping_gate(
    share: float, where: Sequence[Rect], *, dark: bool = False, card: ClippedLight = NOTHING_CLIPPED, cut: CutColours = NOTHING_CUT
) -> Gate:
    """`share` is that of the patch or paper zone that is clipped most, at black where the picture is `dark`; `card` is what is clipped at
    its brightest elsewhere, `cut` what is more vivid than the picture can hold."""
    advice = "The brightest or darkest parts are clipped; turn automatic exposure off, or expose one step less, and shoot again."
    if dark:
        advice = "The darkest parts are clipped; expose longer until the paper is bright but not clipped, and shoot again."
    gate = graded("clipping", share, CLIPPED_WARN, CLIPPED_FAIL, advice, [*where, *card.where])
    if gate.state != "pass":
        return gate
    if card.share >= CLIPPED_CARD_WARN:
        advice = (
            f"{100 * card.share:.1f} % of the card is clipped, though no patch is; expose one step less, before what is measured clips as "
            "well."
        )
        return Gate("clipping", "warn", advice, round(card.share, 4), card.where)
    if cut.where:
        advice = (
            f"In {len(cut.where)} of {cut.many} zones {said(cut.channels)}: their colours are more vivid than this picture can hold, and "
            "what is cut off has no figures; save it raw or in a wider colour space, or scan without colour correction."
        )
        return Gate("clipping", "warn", advice, round(len(cut.where) / cut.many, 4), cut.where)
    return gate


def flatness_gate(off_mm: float) -> Gate:
    advice = f"The card's tags stand {off_mm:.2f} mm off one plane; press the card flat, under glass if it curls, and shoot again."
    return graded("flatness", off_mm, FLATNESS_WARN_MM, FLATNESS_FAIL_MM, advice)


def exposure_gate(code: float | None, *, steps_abound: bool = False) -> Gate:
    """`code` is the share of the largest value at which the brightest of paper and patches is stored; None where there are none.
    Where `steps_abound`, as in 16 bits with nothing clipped at black, noise alone asks for light."""
    warn, fail = EXPOSURE_OF_MANY_STEPS if steps_abound else (EXPOSURE_WARN, EXPOSURE_FAIL)
    if code is None or code >= warn:
        return Gate("exposure", "pass", value=None if code is None else round(code, 3))
    advice = (
        "The image is dark, which leaves deep paints few steps; expose longer until the paper is bright but not clipped, and shoot again."
    )
    return Gate("exposure", "fail" if code < fail else "warn", advice, round(code, 3))


def compression_gate(step: float | None) -> Gate:
    """`step` is how coarsely a JPEG stores the colour of a block, in levels of 255; None for other files."""
    if step is None:
        return Gate("compression", "pass")
    advice = (
        f"The file keeps colours only to {step:.0f} of 255 levels; save it in the best quality, or send the original instead of a copy "
        "made smaller by a messenger."
    )
    return graded("compression", step, COMPRESSION_WARN, COMPRESSION_FAIL, advice)


def noise_gate(noise_l: float) -> Gate:
    return graded("noise", noise_l, NOISE_WARN_L, 4 * NOISE_WARN_L, "The image is noisy; scan slower or photograph with more light.")


def fall_off_gate(share: float, where: Sequence[Rect] = (), colour: float = 0.0, colour_where: Sequence[Rect] = ()) -> Gate:
    """`share` of the light is lost somewhere; its `colour` changes by a share."""
    advice = "The light falls off across the card; light it from both sides or move the lamp away, and shoot again."
    gate = graded("fall-off", share, FALL_OFF_WARN, FALL_OFF_FAIL, advice, where)
    if gate.state != "pass" or colour < LIGHT_COLOUR_WARN:
        return gate
    advice = "The light changes its colour across the card; shut out all but one of window and lamps, and shoot again."
    return Gate("fall-off", "warn", advice, share, tuple(colour_where))


def tilt_gate(tilt_deg: float) -> Gate:
    return graded("tilt", tilt_deg, TILT_WARN_DEG, TILT_FAIL_DEG, "The card is seen at a slant; capture it square-on.")


def paper_shade_gate(spread_de: float, shadowed_share: float, where: Sequence[Rect] = ()) -> Gate:
    """`spread_de` is how far the paper zones differ; `shadowed_share` how much of all bare paper is darker than the light explains."""
    advice = "The bare paper differs across the card; look for stains, shadows or splashes on the paper, and shoot again without them."
    gate = graded("paper-shade", spread_de, PAPER_SHADE_WARN_DE, 4 * PAPER_SHADE_WARN_DE, advice, where)
    if shadowed_share == 0 or gate.state == "fail":
        return gate
    return Gate("paper-shade", "fail" if shadowed_share >= ODD_PAPER_FAIL_SHARE else "warn", advice, gate.value, tuple(where))


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
