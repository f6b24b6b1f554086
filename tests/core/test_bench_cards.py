"""Mixing cards, strips for the light, dilution steps and layers: painted, scanned, measured against the simulator's truth."""

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.capture.placing.card_code import codes_in
from gelvet.core.capture.reading import read_picture
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout
from gelvet.core.card.mix_grid import build_mix_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.files import reference_of, simulate_scan, write_scan
from gelvet.core.simulate.paint import SimulatedPaint, paint_of_codes
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.truth import card_truth


def label(name: str) -> SwatchLabel:
    return SwatchLabel(name)


class BenchCards(unittest.TestCase):
    def measured(self, layout: Layout, paints: dict[str, SimulatedPaint], turn: int = 0) -> tuple[dict[str, Any], dict[str, Any], Any]:
        made = simulate_scan(layout, paints, Scanner(dpi=300, kind="white-led", tone="srgb"), seed=5)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "scan.tif"
            write_scan(np.rot90(made.image, turn), path, 300)
            self.assertEqual(codes_in(read_picture(path)), [layout.card_id])
            document = measure_image(path, layout, reference_of(made.card)).document
        return document, card_truth(made.card), made.card

    def test_a_mixing_card_upside_down(self) -> None:
        layout = build_mix_card("MIX-1", "A5", [label("blue")], [label("red"), label("yellow"), label("green")])
        paints = {
            "S1": paint_of_codes("blue", ("PB29",), (1.0,)),
            "S2": paint_of_codes("red", ("PR254",), (1.0,)),
            "S3": paint_of_codes("yellow", ("PY150",), (1.0,)),
            "S4": paint_of_codes("green", ("PG7",), (1.0,)),
        }
        document, _, card = self.measured(layout, paints, turn=2)
        errors = []
        for zone in layout.zones_of("mix"):
            truth = xyz_to_lab(card.zone_xyz[zone.id].reshape(-1, 3).mean(axis=0, dtype=float))
            errors.append(float(ciede2000(truth, np.array(document["zones"][zone.id]["lab"]))) / document["zones"][zone.id]["u"])
        self.assertEqual(len(errors), 9)
        # Vivid mixes are as far off as three channels leave them; what is said of that must hold.
        self.assertLess(max(errors), 4.0)
        self.assertLess(np.median(errors), 2.5)
        # More red in it, redder: the parts are where the layout says.
        a_star = [document["zones"][f"M{row}-1"]["lab"][1] for row in (1, 2, 3)]
        self.assertEqual(a_star, sorted(a_star))

    def test_strips_in_the_light(self) -> None:
        layout = build_card("STRIP-1", "A5", [label("fades"), label("stays")], Design(tests=("exposure",)))
        paints = {
            "S1": paint_of_codes("fades", ("PV19",), (1.0,), fading=0.6),
            "S2": paint_of_codes("stays", ("PB29",), (1.0,)),
        }
        young, _, _ = self.measured(layout, paints)
        self.assertIn("has not been in the light", young["swatches"]["S1"]["fade"]["absent"])
        zones = tuple(z if z.kind != "exposed" else type(z)(id=z.id, kind=z.kind, rect=z.rect, swatch=z.swatch, extra={"hours": 800.0})
                      for z in layout.zones)  # fmt: skip
        old = Layout(
            card_id=layout.card_id, size_mm=layout.size_mm, tags=layout.tags, patches=layout.patches, zones=zones,
            swatches=layout.swatches, extra=layout.extra,
        )  # fmt: skip
        document, truth, _ = self.measured(old, paints)
        faded, steady = (document["swatches"][s]["fade"] for s in ("S1", "S2"))
        true = truth["swatches"]["S1"]["fade"]["delta_e_ab"]
        self.assertGreater(true, 8)
        self.assertLess(abs(faded["delta_e_ab"] - true), max(2.0, 2.5 * faded["u"]))
        self.assertGreater(faded["delta_L"], 0)
        self.assertEqual((steady["category"], faded["hours"]), ("I", 800.0))

    def test_dilution_steps_and_layers_on_a_small_card(self) -> None:
        layout = build_card("STEPS-1", "A6", [label("green")], Design("steps", ()))
        document, _, _ = self.measured(layout, {"S1": paint_of_codes("green", ("PG18",), (1.0,))})
        lightness = [document["zones"][f"S1.{name}"]["lab"][0] for name in ("masstone", "step1", "step2", "step3", "wash")]
        self.assertEqual(lightness, sorted(lightness))
        layers = build_card("LAYERS-1", "A5", [label("green")], Design("stroke", ("layers",)))
        document, _, _ = self.measured(layers, {"S1": paint_of_codes("green", ("PG18",), (1.0,))})
        deep = [document["zones"][f"S1.glaze{n}"]["lab"][0] for n in (1, 2, 3)]
        self.assertEqual(deep, sorted(deep, reverse=True))
