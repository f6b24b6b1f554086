"""Texture against the simulator's truth: grain, separation, sparkle, hiding, lifting, layers and water, with coverage."""

import tempfile
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np

from bench.accuracy import CAMERAS, SCANNERS, by_light, errors_of
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import random_camera
from gelvet.core.simulate.files import PhotoFormat, SimulatedCapture, reference_of, take_photograph, write_image
from gelvet.core.simulate.flakes import GLARE
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import SimulatedPaint, invented_paint
from gelvet.core.simulate.painted_card import PaintedCard, State, paint_card
from gelvet.core.simulate.scanner import device_weights, random_scanner, scan
from gelvet.core.simulate.spectra import invented_pigment
from gelvet.core.simulate.truth import card_truth

SWATCHES = 4
DESIGN = Design(application="stroke", tests=("hiding", "lifting", "dilution", "drops"))
DEVICES = ("flatbed 300 dpi", "flatbed 600 dpi", "camera")
_RATIOS = (
    ("hiding", "veil", "u", "veil"),
    ("hiding", "contrast_ratio", "contrast_ratio_u", "contrast ratio"),
    ("hiding", "hiding", "hiding_u", "hiding"),
    ("lifting", "removed", "u", "share lifted"),
    ("lifting", "residual_de00", "residual_de00_u", "left after lifting"),
)
_AZIMUTHS = (0.0, 90.0, 180.0, 270.0)

# Quantity: unit, wanted median and 95th percentile.
WANTED: dict[str, tuple[str, float, float]] = {
    "granulation index (true ≥ 1)": ("%", 2.5, 7.0),
    "granulation index (true < 1)": ("L*", 0.07, 0.15),
    "grain width (true index ≥ 1)": ("%", 1.5, 7.0),
    "mottle": ("L*", 0.07, 0.15),
    "fine grain": ("L*", 0.07, 0.15),
    "skew": ("", 0.2, 0.5),
    "separation, two pigments": ("%", 3.0, 8.0),
    "separation, one pigment": ("ΔE", 0.12, 0.4),
    "component colours": ("ΔE00", 4.0, 99.0),
    "glint density": ("%", 15.0, 30.0),
    "glint strength": ("%", 20.0, 40.0),
    "false glints": ("/cm²", 0.0, 0.1),
    "veil": ("", 0.0015, 0.008),
    "contrast ratio": ("", 0.006, 0.05),
    "hiding": ("", 0.01, 0.05),
    "share lifted": ("", 0.005, 0.02),
    "left after lifting": ("ΔE00", 0.7, 2.8),
    "drying shift": ("ΔE", 0.5, 0.5),
    "tinting strength": ("%", 5.0, 99.0),
    "paint that halves light": ("%", 5.0, 99.0),
    "reach of a drop": ("mm", 0.3, 1.0),
    "area of a water drop": ("%", 10.0, 30.0),
}


@dataclass
class Trial:
    """Errors by quantity, the same over their stated uncertainties, and counts of what was told rightly."""

    errors: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    pulls: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    counts: dict[str, list[bool]] = field(default_factory=lambda: defaultdict(list))
    grain: list[tuple[float, float]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class _Taken:
    """One card's files: the flat shot, the others, and the cards that they show."""

    flat: SimulatedCapture
    image: Path
    others: tuple[ShotFile, ...]
    wet: PaintedCard


def run_trial(seed: int, index: int, device: str) -> Trial:
    """Paints, captures and measures card `index` of the run `seed`."""
    rng = np.random.default_rng([seed, index, 5])
    layout = build_card(f"TEXTURE-{seed}-{index:02d}", "A5", [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)], DESIGN)
    paints = {s.id: _paint(rng, s.label, number) for number, s in enumerate(layout.swatches)}
    trial = Trial()
    with tempfile.TemporaryDirectory() as folder:
        taken = _take(layout, paints, device, index, rng, Path(folder))
        document = measure_image(taken.image, layout, taken.flat.reference, other_shots=taken.others).document
    truth, wet = card_truth(taken.flat.card), card_truth(taken.wet)
    for name, paint in paints.items():
        _judge(trial, document["swatches"][name], truth["swatches"][name], wet["swatches"][name], paint)
        if device == "camera":
            _judge_glints(trial, document["swatches"][name]["sparkle"], taken.flat.card, name)
    return trial


def _paint(rng: np.random.Generator, name: str, number: int) -> SimulatedPaint:
    """The first of a card sparkles, the second is streaked and flat, the third of two grainy pigments, the fourth of one."""
    paint = replace(invented_paint(rng, name), backruns=int(rng.random() < 0.25))
    if number == 0:
        return replace(paint, flakes_per_cm2=float(np.exp(rng.uniform(np.log(300), np.log(3000)))))
    if number == 1:
        flat = tuple(replace(p, grain=min(p.grain, 0.02)) for p in paint.pigments)
        return replace(paint, pigments=flat, streaks=float(rng.uniform(0.1, 0.2)))
    grainy = tuple(
        replace(invented_pigment(rng), grain=float(rng.uniform(0.05, 0.4)), settling=float(rng.uniform(0, 0.8)))
        for _ in range(2 if number == 2 else 1)
    )
    share = float(rng.uniform(0.3, 0.7))
    return replace(
        paint, pigments=grainy, fractions=(share, 1 - share) if number == 2 else (1.0,), parting=float(rng.uniform(0, 0.3)),
        drift=float(rng.uniform(-0.2, 0.2)),
    )  # fmt: skip


def _take(layout: Layout, paints: dict[str, SimulatedPaint], device: str, index: int, rng: np.random.Generator, folder: Path) -> _Taken:
    seed = int(rng.integers(1 << 31))
    if device == "camera":
        return _photographs(layout, paints, index, rng, seed, folder)
    dpi = 600 if device == "flatbed 600 dpi" else 300
    scanner = random_scanner(rng, SCANNERS[index % 2], dpi)
    fine = dpi / 25.4 * (1.6 if dpi <= 400 else 1.0)

    def card(state: State) -> PaintedCard:
        return paint_card(layout, paints, device_weights(scanner.kind), seed=seed, pixels_per_mm=fine, state=state)

    dry, wet = card("dry"), card("wet")
    shots = [
        SimulatedCapture(card=c, image=scan(c, scanner, seed + number), reference=reference_of(c), device=scanner)
        for number, c in enumerate((dry, wet))
    ]
    paths = written(shots, folder)
    return _Taken(shots[0], paths[0], (ShotFile(path=paths[1], state="wet"),), wet)


def _photographs(
    layout: Layout, paints: dict[str, SimulatedPaint], index: int, rng: np.random.Generator, seed: int, folder: Path
) -> _Taken:
    from gelvet.core.simulate.camera import camera_weights

    camera = replace(random_camera(rng, CAMERAS[index % 2]), pixels_per_mm=20.0)
    # Eight bits of linear light are no camera's choice.
    stored: PhotoFormat = "tiff-16" if camera.tone == "linear" or index % 2 else "jpeg-92"
    weights = camera_weights(camera.kind)

    def card(state: State) -> PaintedCard:
        return paint_card(layout, paints, weights, seed=seed, pixels_per_mm=camera.pixels_per_mm * 1.35, state=state)

    dry, wet = card("dry"), card("wet")
    lamps = [None, *(Lamp(azimuth_deg=a) for a in _AZIMUTHS)]
    shots = [take_photograph(dry, camera, seed + number, stored, lamp) for number, lamp in enumerate(lamps)]
    shots.append(take_photograph(wet, camera, seed + 9, stored))
    paths = written(shots, folder)
    others = tuple(
        ShotFile(path=path, light="rake", azimuth_deg=lamp.azimuth_deg, elevation_deg=lamp.elevation_deg)
        for path, lamp in zip(paths[1:-1], lamps[1:], strict=True)
        if lamp is not None
    )
    return _Taken(shots[0], paths[0], (*others, ShotFile(path=paths[-1], state="wet")), wet)


def written(shots: Sequence[SimulatedCapture], folder: Path) -> list[Path]:
    """The shots' files, by their numbers."""
    paths = [folder / f"{number}.{shot.ending}" for number, shot in enumerate(shots)]
    for shot, path in zip(shots, paths, strict=True):
        write_image(shot, path)
    return paths


def _judge(trial: Trial, found: dict[str, Any], true: dict[str, Any], wet: dict[str, Any], paint: SimulatedPaint) -> None:
    errors, pulls = trial.errors, trial.pulls
    if paint.streaks:
        trial.counts["streaked flat paint called brush marks"].append(
            bool(found["granulation"]["brush_marks"]) or found["granulation"]["index"] < 0.4
        )
    elif not paint.flakes_per_cm2:
        # Without a lamp nobody can tell a flake's light from the paint's own unevenness.
        _judge_grain(trial, found["granulation"], true["granulation"])
        _judge_separation(trial, found["separation"], true["separation"], len(paint.pigments))
    for key, name, unsure, quantity in _RATIOS:
        if found[key][name] is None:
            trial.counts[f"{quantity} measured"].append(False)
            continue
        apart = found[key][name] - true[key][name]
        errors[quantity].append(abs(apart))
        pulls[quantity].append(apart / found[key][unsure])
    if found["hiding"]["veil"] is not None:
        trial.counts["transparency class"].append(_veil_class(found["hiding"]["veil"]) == _veil_class(true["hiding"]["veil"]))
    trial.counts["drying shift measured"].append(not found["drying"]["absent"])
    for place in ("masstone", "wash") if not found["drying"]["absent"] else ():
        one, two = (np.array(t[place]["lab"]) for t in (wet, true))
        shift = found["drying"][place]
        apart = float(ciede2000(one, two)) - shift["delta_e00"]
        errors["drying shift"].append(abs(apart))
        pulls["drying shift"].append(apart / shift["u"])
    if found["strength"]["slope"] is not None:
        apart = found["strength"]["slope"] / true["strength"]["slope"] - 1
        errors["tinting strength"].append(100 * abs(apart))
        pulls["tinting strength"].append(apart * true["strength"]["slope"] / found["strength"]["u"])
        half, halved = found["strength"]["half_light"], true["strength"]["half_light"]
        if half is not None and halved is not None:
            errors["paint that halves light"].append(100 * abs(half["fraction"] / halved - 1))
            pulls["paint that halves light"].append((half["fraction"] - halved) / half["u"])
    trial.counts["backruns counted rightly"].append(found["gradient"]["backruns"] == paint.backruns)
    if found["wet_drop"]["reach_mm"] is not None:
        apart = found["wet_drop"]["reach_mm"] - true["wet_drop"]["reach_mm"]
        errors["reach of a drop"].append(abs(apart))
        pulls["reach of a drop"].append(apart / found["wet_drop"]["u"])
    if found["water_drop"]["area_mm2"] is not None:
        apart = found["water_drop"]["area_mm2"] - true["water_drop"]["area_mm2"]
        errors["area of a water drop"].append(100 * abs(apart) / true["water_drop"]["area_mm2"])
        pulls["area of a water drop"].append(apart / found["water_drop"]["area_u"])


def _veil_class(veil: float) -> int:
    return int(np.searchsorted([0.05, 0.12, 0.30], veil))


def _judge_grain(trial: Trial, found: dict[str, Any], true: dict[str, Any]) -> None:
    trial.grain.append((found["index"], true["index"]))
    apart = found["index"] - true["index"]
    trial.pulls["granulation index"].append(apart / found["u"])
    for key, name in (("mottle", "mottle"), ("fine", "fine grain")):
        if found[key] is not None:
            trial.errors[name].append(abs(found[key] - true[key]))
            trial.pulls[name].append((found[key] - true[key]) / found[f"{key}_u"])
    trial.errors["skew"].append(abs(found["skew"] - true["skew"]))
    trial.pulls["skew"].append((found["skew"] - true["skew"]) / found["skew_u"])
    if true["index"] < 1:
        trial.errors["granulation index (true < 1)"].append(abs(apart))
        return
    trial.errors["granulation index (true ≥ 1)"].append(100 * abs(apart) / true["index"])
    if found["grain_mm"] is not None:
        trial.errors["grain width (true index ≥ 1)"].append(100 * abs(found["grain_mm"] / true["grain_mm"] - 1))
        trial.pulls["grain width"].append((found["grain_mm"] - true["grain_mm"]) / found["grain_u"])


def _judge_separation(trial: Trial, found: dict[str, Any], true: dict[str, Any], pigments: int) -> None:
    if found["index"] is None:
        return
    apart = found["index"] - true["index"]
    trial.pulls["separation"].append(apart / found["u"])
    if pigments == 1:
        trial.errors["separation, one pigment"].append(abs(found["index"]))
        trial.counts["one-pigment paint without a second component"].append(not found["components"])
        return
    trial.errors["separation, two pigments"].append(100 * abs(apart) / true["index"])
    if len(found["components"]) == 2:
        seen, real = ([np.array(c["lab"]) for c in t["components"]] for t in (found, true))
        ways = [[float(ciede2000(seen[i], real[j])) for i, j in pairs] for pairs in (((0, 0), (1, 1)), ((0, 1), (1, 0)))]
        nearer = min(ways, key=sum)
        trial.errors["component colours"] += nearer
        trial.pulls["component colours"] += [apart / c["u"] for apart, c in zip(nearer, found["components"], strict=True)]


def _judge_glints(trial: Trial, found: dict[str, Any], card: PaintedCard, swatch: str) -> None:
    """Against the flakes that face a lamp, of more than 0.002 mm² of the paper's light."""
    if found["density"] is None:
        trial.counts["sparkle measured"].append(False)
        return
    flakes, paper = card.flakes, card.paper_xyz[1] / 100
    zones = [z.rect.inset(0.8) for z in card.layout.zones if z.swatch == swatch and z.kind in {"masstone", "gradient", "wash"}]
    area = sum(r.width * r.height for r in zones) / 100
    x, y = flakes.places_mm.T
    inside = np.any([(x > r.x) & (x < r.right) & (y > r.y) & (y < r.bottom) for r in zones], axis=0)
    energy = GLARE * flakes.sizes_mm**2 / paper
    shining = [inside & (energy > 0.002) & flakes.facing(azimuth, 20.0) for azimuth in _AZIMUTHS]
    density = float(np.mean([s.sum() for s in shining])) / area
    strength = float(np.mean([energy[s].sum() for s in shining])) / area
    if density == 0:
        trial.errors["false glints"].append(found["density"])
        return
    trial.errors["glint density"].append(100 * abs(found["density"] / density - 1))
    trial.errors["glint strength"].append(100 * abs(found["strength"] / strength - 1))
    trial.pulls["glint density"].append((found["density"] - density) / found["u"])
    trial.pulls["glint strength"].append((found["strength"] - strength) / found["strength_u"])


def texture_table(cards: int, seed: int) -> str:
    """The tables as text; `seed` repeats a run."""
    return tables(f"Texture on random A5 cards of {SWATCHES} swatches (seed {seed})", run_trial, DEVICES, cards, seed, WANTED)


def tables(
    title: str,
    trial: Callable[[int, int, str], Trial],
    devices: Sequence[str],
    cards: int,
    seed: int,
    wanted: Mapping[str, tuple[str, float, float]],
) -> str:
    """`trial` of so many cards on each device, in processes of their own, as text."""
    lines = [title]
    for device in devices:
        with ProcessPoolExecutor() as pool:
            trials = list(pool.map(trial, [seed] * cards, range(cards), [device] * cards))
        lines += ["", f"{device}, {cards} cards", *_rows(trials, wanted)]
    return "\n".join([*lines, ""])


def _rows(trials: list[Trial], wanted: Mapping[str, tuple[str, float, float]]) -> list[str]:
    """Errors of each quantity against what is `wanted` (unit, median, 95th percentile), what was told rightly, and coverage."""
    lines = [f"  {'quantity':36}{'n':>5}{'median':>10}{'wanted':>9}{'95 %':>10}{'wanted':>9}{'even cards':>16}{'odd cards':>16}"]
    for name, (unit, median, p95) in wanted.items():
        values = errors_of(trials, name)
        if len(values) == 0:
            continue
        middle, high = float(np.median(values)), float(np.percentile(values, 95))
        mark = "" if middle <= median and high <= p95 else "  missed"
        wide, apart = name + (" " + unit if unit else ""), by_light(trials, name)
        lines.append(f"  {wide:36}{len(values):>5}{middle:>10.4f}{median:>9}{high:>10.4f}{p95:>9}{apart}{mark}")
    pairs = np.array([g for t in trials for g in t.grain])
    if len(pairs) > 2:
        ranks = pairs.argsort(axis=0).argsort(axis=0)
        lines.append(f"  rank correlation of granulation: {float(np.asarray(np.corrcoef(ranks.T))[0, 1]):.3f} (wanted 0.98)")
    for name in dict.fromkeys(n for t in trials for n in t.counts):
        told = [v for t in trials for v in t.counts.get(name, [])]
        lines.append(f"  {name}: {sum(told)} of {len(told)}")
    lines.append(f"  {'within k = 2':36}{'n':>5}{'share':>10}{'wanted 90 to 98 %':>20}{'95 % of |error| / u':>22}")
    for name in dict.fromkeys(n for t in trials for n in t.pulls):
        values = np.array([v for t in trials for v in t.pulls.get(name, [])])
        share = float(np.mean(np.abs(values) <= 2))
        mark = "" if 0.90 <= share <= 0.98 or len(values) < 20 else "  too wide" if share > 0.98 else "  missed"
        lines.append(f"  {name:36}{len(values):>5}{share:>10.1%}{mark:20}{float(np.percentile(np.abs(values), 95)):>22.2f}")
    return lines
