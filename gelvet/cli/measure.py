"""`gelvet measure`: captures or images to measurements."""

import argparse
import json
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from gelvet.cli.complaint import complain
from gelvet.cli.output import write_atomically
from gelvet.cli.tables import measurement_table
from gelvet.core.errors import CaptureError, GelvetError, NothingMeasurable, UnreadableInput

if TYPE_CHECKING:
    from gelvet.cli.companions import Companions
    from gelvet.core.pipeline import Measured, NotMeasured

Commands = Any  # argparse's sub-parsers action has no public type


def add_to(commands: Commands) -> None:
    parser = commands.add_parser("measure", help="measure one or more captures or images")
    parser.add_argument("capture", nargs="+", type=Path, help="a *.capture.json, or an image together with --layout")
    parser.add_argument(
        "--layout", type=Path, nargs="+", action="extend", help="the *.card.json of an image; several where it shows several cards"
    )
    parser.add_argument("--reference", type=Path, help="CGATS file with the reference patches' values")
    parser.add_argument("--state", choices=["dry", "wet", "before_lifting"], help="state of the paint in an image (default dry)")
    parser.add_argument("--out", type=Path, help="file for the JSON (a folder where several captures are given)")
    parser.set_defaults(run=run)


def run(options: argparse.Namespace) -> int:
    from gelvet.cli.companions import Companions, dry_last

    many = len(options.capture) > 1
    if many and options.out is not None:
        options.out.mkdir(parents=True, exist_ok=True)
    status = 0
    companions = Companions()
    for source in dry_last(options.capture, options.state):
        out = options.out / f"{source.name.split('.')[0]}.measure.json" if many and options.out else options.out
        try:
            ended = _measure_one(source, out, options, companions)
            status = max(status, ended)
            companions.keep(source, options.state, failed=ended != 0)
        except NothingMeasurable as problem:
            complain(f"{source}: {problem}")
            status = max(status, 1)
        except GelvetError as problem:
            complain(_named(source, str(problem)))
            status = 2
    return status


def _named(source: Path, sentence: str) -> str:
    return sentence if str(source) in sentence or source.name in sentence else f"{source}: {sentence}"


def _measure_one(source: Path, out: Path | None, options: argparse.Namespace, companions: "Companions") -> int:
    if source.suffix.lower() == ".json":
        return _measure_capture(source, out, options, companions)
    from gelvet.core.formats.card_layout import read_layout
    from gelvet.core.formats.cgats import read_reference
    from gelvet.core.pipeline import measure_sheet

    if not options.layout:
        _refuse_non_image(source)
        raise CaptureError(f"{source} needs its card layout; add --layout CARD.card.json.")
    layouts = [read_layout(path) for path in options.layout]
    reference = read_reference(options.reference) if options.reference else None
    found = measure_sheet(source, layouts, reference, state=options.state or "dry", progress=_ProgressBar(source.name))
    return _report(source, out, found)


def _measure_capture(source: Path, out: Path | None, options: argparse.Namespace, companions: "Companions") -> int:
    from gelvet.core.formats.capture_file import read_capture
    from gelvet.core.formats.card_layout import read_layout
    from gelvet.core.formats.cgats import read_reference
    from gelvet.core.pipeline import measure_image, measure_sheet

    capture = read_capture(source)
    shot = capture.diffuse
    if shot is None:
        raise CaptureError(f"{source} has no diffuse shot, on which colour is measured; add one.")
    state = options.state or capture.state
    others = [s for s in capture.shots if s is not shot]
    layouts = [read_layout(path) for path in options.layout or [capture.layout_path]]
    reference_path = options.reference or capture.reference_path
    reference = read_reference(reference_path) if reference_path else None
    progress = _ProgressBar(source.name)
    if others and len(layouts) > 1:
        raise CaptureError(f"{source} has several shots of one card; give only the layout of that card.")
    joined = companions.of(layouts[0].card_id, capture) if state == "dry" and len(layouts) == 1 and layouts[0].placement is None else []
    measure = partial(measure_image, shot.path, layouts[0], reference, state=state, progress=progress)
    if joined:
        try:
            return _report(source, out, [measure(other_shots=[*others, *joined])])
        except NothingMeasurable as problem:
            complain(f"{source}: warning: measured without {', '.join(s.title for s in joined)}: {problem}")
    if others:
        return _report(source, out, [measure(other_shots=others)])
    return _report(source, out, measure_sheet(shot.path, layouts, reference, state=state, progress=progress))


def _report(source: Path, out: Path | None, found: "Sequence[Measured | NotMeasured]") -> int:
    """Writes what was measured, one document or a set of them, and says what is to be warned of."""
    from gelvet.core.pipeline import Measured

    measured = [one for one in found if isinstance(one, Measured)]
    if not measured:
        raise NothingMeasurable(" ".join(dict.fromkeys(one.reason for one in found if not isinstance(one, Measured))))
    documents = [one.document for one in measured]
    if out is None:
        print("\n\n".join(measurement_table(document) for document in documents))
    else:
        whole = documents[0] if len(found) == 1 else {"format": "gelvet.measurement-set", "version": 1, "measurements": documents}
        write_atomically(out, json.dumps(whole, indent=1, ensure_ascii=False, allow_nan=False) + "\n")
    return max(_complain_of(source, one) for one in found)


def _complain_of(source: Path, one: "Measured | NotMeasured") -> int:
    """One line on standard error for a card that failed, one for each warning; the exit status for it."""
    from gelvet.core.pipeline import NotMeasured

    if isinstance(one, NotMeasured):
        complain(f"{source}: {one.reason}")
        return 1
    calibration = one.document["calibration"]
    warnings = [g["advice"] for g in calibration["gates"] if g["state"] == "warn"] + calibration.get("warnings", [])
    if one.failed_gates:  # what failed comes first, and everything in one line
        complain(f"{source}: {' '.join([*one.failed_gates, *warnings])}")
        return 1
    for sentence in warnings:
        complain(f"{source}: warning: {sentence}")
    return 0


def _refuse_non_image(source: Path) -> None:
    from gelvet.core.capture.reading import read_picture

    if not source.exists():
        raise UnreadableInput(f"{source} is not there; check the name and the folder.")
    read_picture(source)


class _ProgressBar:
    """One line on a terminal, nothing elsewhere."""

    def __init__(self, name: str) -> None:
        self.name = name
        self.shown = sys.stderr.isatty()

    def __call__(self, stage: str, share: float) -> None:
        if self.shown:
            filled = round(24 * share)
            end = "\n" if share >= 1 else ""
            print(f"\r{self.name} [{'#' * filled}{'.' * (24 - filled)}] {stage:32}", end=end, file=sys.stderr, flush=True)
