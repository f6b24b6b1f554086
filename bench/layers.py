"""Layers, scrubbed paper and what water does, against the simulator's truth."""

import tempfile
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from bench.accuracy import CAMERAS, SCANNERS
from bench.texture import Trial, tables, written
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.colour.difference import ciede2000
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import camera_weights, random_camera
from gelvet.core.simulate.files import SimulatedCapture, reference_of, take_photograph
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import SimulatedPaint, invented_paint
from gelvet.core.simulate.painted_card import PaintedCard, paint_card
from gelvet.core.simulate.scanner import device_weights, random_scanner, scan
from gelvet.core.simulate.truth import card_truth

SWATCHES = 3
DESIGN = Design(tests=("hiding", "lifting", "layers", "layers-hiding", "tilt", "effects"))
SHEET = "310x150"
DEVICES = ("flatbed 300 dpi", "camera with two lamps")
_LAMPS = (Lamp(azimuth_deg=0.0), Lamp(azimuth_deg=90.0))

# Quantity: unit, wanted median and 95th percentile.
WANTED: dict[str, tuple[str, float, float]] = {
    "lightness a layer": ("L*", 0.3, 1.0),
    "veil after layers": ("", 0.003, 0.015),
    "stirring": ("", 0.02, 0.05),
    "ends of a tilted strip": ("ΔE00", 0.7, 2.8),
    "parts on a tilted strip": ("ΔE", 0.7, 2.8),
    "contrast of an effect": ("%", 5.0, 15.0),
    "rise of roughness": ("", 0.1, 0.3),
}


def run_trial(seed: int, index: int, device: str) -> Trial:
    """Paints, captures and measures card `index` of the run `seed`."""
    rng = np.random.default_rng([seed, index, 9])
    layout = build_card(f"LAYERS-{seed}-{index:02d}", SHEET, [SwatchLabel(f"Trial paint {i + 1}") for i in range(SWATCHES)], DESIGN)
    paints = {s.id: _paint(rng, s.label) for s in layout.swatches}
    trial = Trial()
    with tempfile.TemporaryDirectory() as folder:
        card, shots = _take(layout, paints, device, index, rng)
        paths = written(shots, Path(folder))
        lamps = [
            ShotFile(path=path, light="rake", azimuth_deg=lamp.azimuth_deg, elevation_deg=lamp.elevation_deg)
            for path, lamp in zip(paths[1:], _LAMPS, strict=False)
        ]
        document = measure_image(paths[0], layout, shots[0].reference, other_shots=lamps).document
    truth = card_truth(card)
    for name in paints:
        _judge(trial, document["swatches"][name], truth["swatches"][name], _layers(truth, layout, name))
    return trial


def _paint(rng: np.random.Generator, name: str) -> SimulatedPaint:
    return replace(
        invented_paint(rng, name),
        parting=float(rng.uniform(0, 0.3)),
        stirs=float(rng.choice([0.0, rng.uniform(0.1, 0.4)])),
        scuffs=float(rng.choice([0.0, rng.uniform(0.2, 1.5)])),
    )


def _take(
    layout: Layout, paints: dict[str, SimulatedPaint], device: str, index: int, rng: np.random.Generator
) -> tuple[PaintedCard, list[SimulatedCapture]]:
    """The card and its shots, the flat one first."""
    seed = int(rng.integers(1 << 31))
    if device == "flatbed 300 dpi":
        scanner = random_scanner(rng, SCANNERS[index % 2], 300)
        card = paint_card(layout, paints, device_weights(scanner.kind), seed=seed, pixels_per_mm=18.0)
        return card, [SimulatedCapture(card=card, image=scan(card, scanner, seed + 1), reference=reference_of(card), device=scanner)]
    camera = replace(random_camera(rng, CAMERAS[index % 2]), pixels_per_mm=18.0)
    card = paint_card(layout, paints, camera_weights(camera.kind), seed=seed, pixels_per_mm=24.0)
    return card, [take_photograph(card, camera, seed + number, "tiff-16", lamp) for number, lamp in enumerate((None, *_LAMPS))]


def _layers(truth: dict[str, Any], layout: Layout, swatch: str) -> dict[int, float]:
    """Lightness after each number of layers."""
    zones = [z for z in layout.zones if z.kind == "glaze" and z.swatch == swatch]
    return {int(z.extra["layers"]): truth["zones"][z.id]["lab"][0] for z in zones}


def _judge(trial: Trial, found: dict[str, Any], true: dict[str, Any], layers: dict[int, float]) -> None:
    errors, pulls = trial.errors, trial.pulls
    for step, stirred in zip(found["glaze"]["steps"], true["glaze"]["stirred"], strict=True):
        before = max(n for n in layers if n < step["layers"])
        apart = step["delta_L"] - (layers[step["layers"]] - layers[before]) / (step["layers"] - before)
        errors["lightness a layer"].append(abs(apart))
        pulls["lightness a layer"].append(apart / step["u"])
        if step["disturbance"] is not None:
            errors["stirring"].append(abs(step["disturbance"] - stirred))
            pulls["stirring"].append((step["disturbance"] - stirred) / step["disturbance_u"])
    for over, veil in zip(found["glaze"]["hiding"], true["glaze"]["hiding"], strict=True):
        errors["veil after layers"].append(abs(over["veil"] - veil["veil"]))
        pulls["veil after layers"].append((over["veil"] - veil["veil"]) / over["u"])
    for end in ("head", "tail"):
        apart = _apart(found["tilt"][end]["lab"], true["tilt"][end])
        errors["ends of a tilted strip"].append(apart)
        pulls["ends of a tilted strip"].append(apart / found["tilt"][end]["u"])
    if found["tilt"]["parted"] is not None:
        apart = found["tilt"]["parted"] - true["tilt"]["parted"]
        errors["parts on a tilted strip"].append(abs(apart))
        pulls["parts on a tilted strip"].append(apart / found["tilt"]["parted_u"])
    for effect, pattern in zip(found["effects"], true["effects"], strict=True):
        apart = effect["contrast"] - pattern["contrast"]
        errors["contrast of an effect"].append(100 * abs(apart) / pattern["contrast"])
        pulls["contrast of an effect"].append(apart / effect["contrast_u"])
    damage = found["lifting"]["damage"]
    if damage is not None:
        errors["rise of roughness"].append(abs(damage - true["lifting"]["damage"]))
        pulls["rise of roughness"].append((damage - true["lifting"]["damage"]) / found["lifting"]["damage_u"])


def _apart(one: Sequence[float], other: Sequence[float]) -> float:
    return float(ciede2000(np.array(one), np.array(other)))


def layers_table(cards: int, seed: int) -> str:
    """The tables as text; `seed` repeats a run."""
    return tables(f"Layers and water on random cards of {SWATCHES} swatches (seed {seed})", run_trial, DEVICES, cards, seed, WANTED)
