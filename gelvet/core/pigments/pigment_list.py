"""Pigments by code: reading the list, checking a code as it is written, and the cautions that follow."""

import csv
import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib import resources

# The public form: P, a hue letter (or Bk, Br), a number, perhaps the number of a form after a colon.
_FORM = re.compile(r"P(?:Y|O|R|V|B|G|Br|Bk|W|M)\d{1,3}(?::\d{1,2})?", re.ASCII)
_CHARACTER = {"t": "transparent", "o": "opaque", "g": "granulating", "s": "staining", "l": "lifting"}


@dataclass(frozen=True, slots=True)
class Pigment:
    """One entry: what it is, the hue family it belongs to, its usual character, and the metal that calls for care."""

    code: str
    name: str
    family: str
    hue: str
    character: tuple[str, ...]
    metal: str | None


@cache
def pigments() -> dict[str, Pigment]:
    """All listed pigments by code, in the order of the list."""
    text = resources.files("gelvet.core.pigments").joinpath("pigments.csv").read_text("utf-8")
    rows = csv.DictReader(line for line in text.splitlines() if not line.startswith("#"))
    return {
        row["code"]: Pigment(
            code=row["code"], name=row["name"], family=row["family"], hue=row["hue"],
            character=tuple(_CHARACTER[c] for c in row["character"].split()), metal=row["metal"] or None,
        )
        for row in rows
    }  # fmt: skip


def well_formed(code: str) -> bool:
    """Whether `code` has the public form, listed or not."""
    return _FORM.fullmatch(code) is not None


def tidy(code: str) -> str:
    """A code as people type it (`pb 29`, `PBK9`) in the list's own spelling; what is no code comes back unchanged."""
    plain = re.sub(r"[\s.]+", "", code)
    found = re.fullmatch(r"p(br|bk|[yorvbgwm])(\d{1,3})((?::\d{1,2})?)", plain, re.IGNORECASE | re.ASCII)
    if not found:
        return code.strip()
    return f"P{found[1].capitalize()}{int(found[2])}{found[3]}"


def find(code: str) -> Pigment | None:
    """The listed pigment of `code`; a form such as `PB15:3` is found under its main number."""
    return pigments().get(code) or pigments().get(code.split(":", maxsplit=1)[0])


def cautions(codes: Iterable[str]) -> list[str]:
    """Plain reminders for pigments that hold certain metals; labels, data sheets and local rules come first."""
    metals = [p.metal for p in map(find, codes) if p is not None and p.metal is not None]
    named = list(dict.fromkeys(metals))
    if not named:
        return []
    return [
        f"These paints hold {_listed(named)} pigments: never sand, spray or handle them dry without the maker's precautions, "
        "and keep rinse water as local rules say.",
        "No brush to the mouth, no food at the bench. The label and its safety data sheet come before anything said here.",
    ]


def _listed(names: list[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
