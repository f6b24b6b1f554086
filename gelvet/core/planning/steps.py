"""What is done at the bench for a card, step by step, in the order in which it is done."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from gelvet.core.card.layout import Layout, Zone
from gelvet.core.planning.facts import PaintFacts, character, likely_lab
from gelvet.core.planning.painting_order import painting_order
from gelvet.core.planning.soaking import soak_seconds

INK_DRYING_S, PAINT_DRYING_S, LAYER_DRYING_S = 15 * 60, 45 * 60, 20 * 60
_APART = "Take another brush and other water: its flakes must reach nothing else."


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """`text` is the one thing to do; `reminder` what to watch; `seconds` how long to wait where one must."""

    id: str
    kind: str  # ink, wake, paint, mix, dry, lift, layer
    text: str
    zones: tuple[str, ...] = ()
    swatch: str | None = None
    seconds: int = 0
    reminder: str = ""


# What is painted in one go, zone by zone, and how it is told. A swatch takes one such go after the other.
_GOES: tuple[tuple[str, dict[str, str]], ...] = (
    (
        "paint",
        {
            "masstone": "a heavy masstone",
            "gradient": "drawn out with water into the palest wash",
            "heavy": "a heavy patch",
            "light": "a light patch",
            "step": "the dilution steps, each with half the paint of the one before",
            "wash": "one even wash",
        },
    ),
    ("hiding", {"over_ink": "once over the ink line", "beside_ink": "the same beside it"}),
    ("wash-hiding", {"light over_ink": "a pale wash once over the ink line", "light beside_ink": "the same beside it"}),
    ("lifting", {"unlifted": "two even patches of middle strength, for lifting"}),
    ("layers", {"glaze": "a first thin layer in every layer cell", "layered over_ink": "the same over the ink line"}),
    ("exposure", {"covered": "two even patches, one for the light and one to be covered"}),
    (
        "water",
        {
            "wet_drop": "wet the first cell with clean water and touch the loaded brush to its middle",
            "water_drop": "lay a wash in the next and let one drop of water fall into its middle while it shines",
        },
    ),
    ("tilt", {"tilt": "wet the left end well with paint, then stand the card on its right edge until the strip has run"}),
    (
        "effects",
        {
            "salt": "a wet wash with a few grains of salt",
            "gauze": "a wet wash under a piece of gauze, lifted off when dry",
            "splatter": "a wash splattered with the loaded brush",
            "bloom": "a damp wash touched with clear water",
        },
    ),
    ("black-paper", {"black_paper": "one heavy patch on the piece of black paper glued there"}),
)
_WITH = {"lifted": "unlifted", "exposed": "covered"}  # painted with their neighbour


def bench_steps(layout: Layout, paints: Mapping[str, PaintFacts]) -> list[Step]:
    """Steps for a card; `paints` by swatch id."""
    steps: list[Step] = []
    inked = [z.id for z in layout.zones if z.kind in {"ink", "over_ink"}]
    if inked:
        steps.append(
            Step(
                id="ink", kind="ink", zones=tuple(inked), seconds=INK_DRYING_S,
                text="Ink the bars with waterproof black, under “ink” and “over”, and let them dry.",
            )
        )  # fmt: skip
    facts: dict[int, PaintFacts] = {}
    swatches: dict[int, list[str]] = {}
    for swatch, paint in paints.items():
        facts[paint.id] = paint
        swatches.setdefault(paint.id, []).append(swatch)
    order = painting_order(list(facts.values()))
    steps += _wake([facts[p] for p in order])
    before: PaintFacts | None = None
    for paint_id in order:
        for swatch in swatches[paint_id]:
            steps += _paint(layout, swatch, facts[paint_id], _rinse(before, facts[paint_id]))
            before = facts[paint_id]
    steps += _freehand(layout, paints)
    steps += _mixes(layout, paints)
    steps.append(Step(id="dry", kind="dry", text="Let it dry flat; nothing counts before.", seconds=PAINT_DRYING_S))
    steps += _layers(layout)
    lifted = [z for z in layout.zones if z.kind == "lifted"]
    if lifted:
        steps.append(
            Step(
                id="lift", kind="lift", zones=tuple(z.id for z in lifted),
                text="Scrub every “lift” patch with a clean damp brush and blot.",
                reminder="The same few strokes for each, no harder than the paper bears.", seconds=LAYER_DRYING_S,
            )
        )  # fmt: skip
    exposed = [z for z in layout.zones if z.kind == "exposed"]
    if exposed:
        text = "Cover the “cover” patches with opaque card, and put the strip into the light."
        steps.append(Step(id="expose", kind="expose", zones=tuple(z.id for z in exposed), text=text))
    return steps


def _wake(paints: Sequence[PaintFacts]) -> list[Step]:
    """Whatever soaks longest is wetted first; each length has its own wait, and they run beside each other."""
    groups: dict[int, list[str]] = {}
    for paint in paints:
        groups.setdefault(soak_seconds(paint), []).append(paint.name)
    return [
        Step(
            id=f"wake-{seconds}", kind="wake", text=f"Wet {', '.join(names)} with clean water and leave them.", seconds=seconds,
            reminder="Note how easily each one gives colour.",
        )
        for seconds, names in sorted(groups.items(), reverse=True)
        if seconds
    ]  # fmt: skip


def _freehand(layout: Layout, paints: Mapping[str, PaintFacts]) -> list[Step]:
    """Rows that have no name yet."""
    blank = [s.id for s in layout.swatches if s.id not in paints]
    if not blank:
        return []
    zones = tuple(z.id for z in layout.zones if z.swatch in blank and z.kind not in {"ink", "lifted"})
    text = f"Paint {', '.join(blank)} freehand; say on the card afterwards what each one is."
    return [Step(id="freehand", kind="paint", text=text, zones=zones)]


def _paint(layout: Layout, swatch: str, paint: PaintFacts, reminder: str) -> list[Step]:
    """The goes of one swatch; only the first needs a rinse before it."""
    steps: list[Step] = []
    zones = [z for z in layout.zones if z.swatch == swatch]
    for go, words in _GOES:
        mine = [z for z in zones if _named(z) in words]
        if not mine:
            continue
        said = list(dict.fromkeys(words[_named(z)] for z in mine))
        told = "; then ".join(part for part in [", ".join(said[:2]), *said[2:]])
        steps.append(
            Step(
                id=f"{swatch}.{go}", kind="paint", swatch=swatch, zones=tuple(z.id for z in mine), reminder="" if steps else reminder,
                text=f"{swatch} {paint.name}: {told}.",
            )
        )  # fmt: skip
    return steps


def _named(zone: Zone) -> str:
    kind = _WITH.get(zone.kind, zone.kind)
    strength = zone.extra.get("strength")
    if kind == "effect":
        return str(zone.extra.get("effect", kind))
    if kind == "over_ink" and "layers" in zone.extra:
        return "layered over_ink"
    if strength is None:
        return kind
    return str(strength) if kind == "wash" else f"{strength} {kind}"


def _rinse(before: PaintFacts | None, paint: PaintFacts) -> str:
    if paint.sparkles and (before is None or not before.sparkles):
        return _APART
    if before is None:
        return "Clean brush, clean water."
    if before.id == paint.id:
        return ""
    lab_before, lab = likely_lab(before), likely_lab(paint)
    to_lighter = lab_before is not None and lab is not None and lab[0] > lab_before[0] + 10
    if character(before, "staining") or to_lighter:
        return "Change the water, and rinse until the brush leaves nothing on white."
    return "Rinse until the brush leaves nothing on white."


def _mixes(layout: Layout, paints: Mapping[str, PaintFacts]) -> list[Step]:
    """One step for each pair of paints, with all its proportions."""
    pairs: dict[tuple[str, str], list[Zone]] = {}
    for zone in layout.zones_of("mix"):
        (one, _), (two, _) = zone.extra["parts"]
        pairs.setdefault((one, two), []).append(zone)
    return [
        Step(
            id=f"{one}-{two}", kind="mix", zones=tuple(z.id for z in zones), text=_mix_words(one, two, zones, paints),
            reminder="The same strength in each, laid evenly; rinse after it.",
        )
        for (one, two), zones in pairs.items()
        if one in paints and two in paints
    ]  # fmt: skip


def _mix_words(one: str, two: str, zones: Sequence[Zone], paints: Mapping[str, PaintFacts]) -> str:
    shares = [f"{float(z.extra['parts'][0][1]) * 100:.0f}" for z in zones]
    listed = shares[0] if len(shares) == 1 else f"{', '.join(shares[:-1])} and {shares[-1]}"
    return f"Mix {one} {paints[one].name} with {two} {paints[two].name}: {listed} % of {one}."


def _layers(layout: Layout) -> list[Step]:
    glazes = [z for z in layout.zones if z.kind == "glaze" or (z.kind == "over_ink" and "layers" in z.extra)]
    most = max((int(z.extra.get("layers", 1)) for z in glazes), default=1)
    return [
        Step(
            id=f"layer-{n}", kind="layer", zones=tuple(z.id for z in glazes if int(z.extra.get("layers", 1)) >= n), seconds=LAYER_DRYING_S,
            text=f"Layer {n} over every layer cell marked {n} or more; then let it dry.",
            reminder="A soft brush, once over: do not stir the layer below.",
        )
        for n in range(2, most + 1)
    ]  # fmt: skip
