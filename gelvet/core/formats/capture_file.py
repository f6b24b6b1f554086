"""`*.capture.json`: which image files show which card, in what light."""

from dataclasses import dataclass
from pathlib import Path, PurePosixPath, PureWindowsPath

from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.errors import CaptureError
from gelvet.core.formats.documents import parse_document, read_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Capture:
    layout_path: Path
    reference_path: Path | None
    state: str
    shots: tuple[ShotFile, ...]

    @property
    def diffuse(self) -> ShotFile | None:
        """The shot that colours are measured on."""
        flat = [s for s in self.shots if s.light == "diffuse"]
        return next((s for s in flat if s.state == self.state), flat[0] if flat else None)


def read_capture(path: Path) -> Capture:
    """The capture in `path`; raises CaptureError, also for files outside its folder."""
    document = parse_document(read_text(path, CaptureError), "capture", str(path), CaptureError)
    shots = tuple(
        ShotFile(
            path=_inside(path, shot["file"]),
            light=shot.get("light", "diffuse"),
            azimuth_deg=shot.get("azimuth_deg"),
            elevation_deg=shot.get("elevation_deg"),
            state=shot.get("state", document.get("state", "dry")),
        )
        for shot in document["shots"]
    )
    reference = document.get("reference")
    return Capture(
        layout_path=_inside(path, document["layout"]),
        reference_path=_inside(path, reference) if reference else None,
        state=document.get("state", "dry"),
        shots=shots,
    )


def _inside(capture: Path, name: str) -> Path:
    """`name` below the capture's folder; symbolic links are followed before judging."""
    absolute = PurePosixPath(name).is_absolute() or PureWindowsPath(name).is_absolute()
    folder = capture.resolve().parent
    try:
        target = (folder / name).resolve()
    except (ValueError, OSError) as problem:
        raise CaptureError(f"{capture} names a file that cannot exist ({name!r}).") from problem
    if absolute or "\0" in name or not target.is_relative_to(folder):
        raise CaptureError(f"{capture} points outside its own folder ({name}); put the file beside it and name it relatively.")
    if not target.is_file():
        raise CaptureError(f"{capture} names {name}, which is not there; put the file beside it.")
    return target
