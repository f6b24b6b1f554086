"""`gelvet simulate`: the stand-in flatbed, camera and lamp. Paints a card, takes its shots, writes the capture with its truth."""

import argparse
from pathlib import Path
from typing import Any

from gelvet.core.simulate.faults import FAULTS


def add_to(commands: Any) -> None:
    parser = commands.add_parser("simulate", help="paint and scan simulated cards, with their truth")
    parser.add_argument("--out", type=Path, required=True, help="folder for the captures")
    parser.add_argument("--layout", type=Path, help="paint this card instead of a built one")
    parser.add_argument("--sheet", default="A5", help="A5 or A4 (default A5)")
    parser.add_argument("--swatches", type=int, default=5, help="paints on each built card (default 5)")
    parser.add_argument("--cards", type=int, default=1, help="how many cards (default 1)")
    parser.add_argument("--seed", type=int, default=1, help="another seed gives other paints and another device")
    parser.add_argument("--scanner", choices=["white-led", "three-led", "both"], default="both")
    parser.add_argument("--dpi", type=int, default=300)
    parser.add_argument("--camera", choices=["daylight", "lamp-led", "both"], help="photograph the cards instead, in this light")
    parser.add_argument("--tilt", type=float, default=12.0, help="a photograph's largest tilt in degrees (default 12)")
    parser.add_argument("--lamps", type=int, default=0, help="further photographs with a low lamp from this many sides (0 to 8)")
    parser.add_argument(
        "--also", action="append", choices=["wet", "before_lifting"], default=[], help="a further shot, of the card as it was then"
    )
    parser.add_argument("--spoil", choices=FAULTS, help="let this go wrong, to see what the gates say")
    parser.add_argument(
        "--target", choices=["many-inks", "three-inks"], default="many-inks", help="what the reference target was printed with"
    )
    parser.add_argument("--no-spectra", action="store_true", help="write the reference target without spectra")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    import numpy as np

    from gelvet.core.card.builder import SwatchLabel, build_card
    from gelvet.core.errors import LayoutError
    from gelvet.core.formats.card_layout import read_layout
    from gelvet.core.simulate.files import write_capture
    from gelvet.core.simulate.paint import invented_paint

    if not 75 <= options.dpi <= 1200:
        raise LayoutError(f"{options.dpi} dpi is beyond what the simulated flatbed does; choose 75 to 1200.")
    if not 0 <= options.lamps <= 8 or not 0 <= options.tilt <= 40:
        raise LayoutError("The simulated camera tilts to 40° and has a lamp for 0 to 8 sides.")
    if options.lamps and not options.camera:
        raise LayoutError("A flatbed has no low lamp; add --camera.")
    for index in range(options.cards):
        rng = np.random.default_rng([options.seed, index])
        stem = f"sim-{options.seed}-{index:03d}"
        if options.layout:
            layout = read_layout(options.layout)
        else:
            labels = [SwatchLabel(f"Simulated paint {i + 1}") for i in range(options.swatches)]
            layout = build_card(stem.upper(), options.sheet, labels)
        paints = {s.id: invented_paint(rng, s.label) for s in layout.swatches}
        take = _photographs if options.camera else _scans
        shots = take(options, index, rng, layout, paints)
        print(write_capture(shots, options.out, stem, with_spectra=not options.no_spectra))
    return 0


def _scans(options: argparse.Namespace, index: int, rng: Any, layout: Any, paints: Any) -> list[Any]:
    from gelvet.core.simulate.files import simulate_scan
    from gelvet.core.simulate.scanner import ScannerKind, random_scanner
    from gelvet.core.simulate.spoiling import spoil_scanner

    kind: ScannerKind = ("white-led", "three-led")[index % 2] if options.scanner == "both" else options.scanner
    scanner = spoil_scanner(random_scanner(rng, kind, options.dpi), options.spoil)
    seed = int(rng.integers(1 << 31))
    return [
        simulate_scan(layout, paints, scanner, seed, scan_seed=seed + 1 + i, target=options.target, fault=options.spoil, state=state)
        for i, state in enumerate(["dry", *options.also])
    ]


def _photographs(options: argparse.Namespace, index: int, rng: Any, layout: Any, paints: Any) -> list[Any]:
    from gelvet.core.simulate.camera import CameraKind, random_camera
    from gelvet.core.simulate.files import PhotoFormat, card_for_camera, take_photograph
    from gelvet.core.simulate.lamp import Lamp
    from gelvet.core.simulate.spoiling import spoil_camera

    kind: CameraKind = ("daylight", "lamp-led")[index % 2] if options.camera == "both" else options.camera
    camera = spoil_camera(random_camera(rng, kind, tilt_to=options.tilt), options.spoil)
    seed = int(rng.integers(1 << 31))
    card = card_for_camera(layout, paints, camera, seed, target=options.target, fault=options.spoil)
    # Eight bits of linear light are no camera's choice.
    file_format: PhotoFormat = "tiff-16" if camera.tone == "linear" else "jpeg-92"
    lamps = [Lamp(azimuth_deg=360.0 * i / options.lamps) for i in range(options.lamps)]
    shots = [take_photograph(card, camera, seed + 1 + i, file_format, lamp, options.spoil) for i, lamp in enumerate([None, *lamps])]
    for state in options.also:
        then = card_for_camera(layout, paints, camera, seed, target=options.target, fault=options.spoil, state=state)
        shots.append(take_photograph(then, camera, seed + 1 + len(shots), file_format, fault=options.spoil))
    return shots
