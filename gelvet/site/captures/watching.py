"""A folder that a scanner saves into: each file, once it has come to rest, goes to the inbox. The folder itself is only read."""

import json
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings

from gelvet.site.captures import inbox
from gelvet.site.captures.models import Arrival

_UNFINISHED = (".part", ".tmp", ".crdownload", ".partial")
_Mark = list[int]  # size and time of change


class WatchedFolder:
    """Remembers, also over restarts, which files it has handed on."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._memory = Path(settings.WORK_DIR) / "watched.json"
        self._last_look: dict[str, _Mark] = {}

    def sweep(self) -> Iterator[Arrival]:
        """Hands on what is new and has not changed since the last look; a line of outcome for each file."""
        look = self._look()
        known = self._known()
        for name, mark in look.items():
            if known.get(name) == mark or self._last_look.get(name) != mark:
                continue
            yield from self._hand_on(self.folder / name)
            self._remember(name, mark)
        self._last_look = look

    def _hand_on(self, path: Path) -> list[Arrival]:
        """To the inbox; a file that has gone or may not be read gets its line as well."""
        try:
            with path.open("rb") as file:
                return inbox.receive(iter(lambda: file.read(1 << 20), b""), path.name)
        except OSError as problem:
            outcome = f"{path.name} could not be read ({problem.strerror}); check its folder."
            return [Arrival.objects.create(name=path.name[:255], outcome=outcome)]

    def _look(self) -> dict[str, _Mark]:
        found = {}
        for path in sorted(self.folder.rglob("*")):
            hidden = any(part.startswith(".") for part in path.relative_to(self.folder).parts)
            if hidden or path.suffix.lower() in _UNFINISHED or not path.is_file():
                continue
            state = path.stat()
            if state.st_size:
                found[str(path.relative_to(self.folder))] = [state.st_size, state.st_mtime_ns]
        return found

    def _known(self) -> dict[str, _Mark]:
        found: dict[str, _Mark] = self._all().get(str(self.folder.resolve()), {})
        return found

    def _all(self) -> dict[str, dict[str, _Mark]]:
        if not self._memory.exists():
            return {}
        everything: dict[str, dict[str, _Mark]] = json.loads(self._memory.read_text("utf-8"))
        return everything

    def _remember(self, name: str, mark: _Mark) -> None:
        everything = self._all()
        everything.setdefault(str(self.folder.resolve()), {})[name] = mark
        self._memory.parent.mkdir(parents=True, exist_ok=True)
        scratch = self._memory.with_suffix(".new")
        scratch.write_text(json.dumps(everything), "utf-8")
        scratch.replace(self._memory)
