"""Paints from and to a person's own spreadsheet: CSV in any common dress in, preview with errors by row, all or nothing."""

import csv
import io
import json
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from gelvet.core.pigments.pigment_list import tidy, well_formed
from gelvet.site.library.models import Paint, PaintForm
from gelvet.site.library.services import CLAIMS, add_paint, read_amount
from gelvet.site.problems import Problem

_TEXTS = ("range", "series", "size_ml", "price", "currency", "batch", "hazards", "note")
FIELDS = (
    "maker", "name", "pigments", "form", "range", "place", "series", "size_ml", "price", "currency", *CLAIMS, "batch", "hazards",
    "sparkles", "owned", "note",
)  # fmt: skip
MAXIMUM_ROWS = 5000
MAXIMUM_BYTES = 5_000_000
# Words that people head their columns with, by field.
_HEADINGS = {
    "maker": {"maker", "make", "manufacturer", "producer", "company"},
    "name": {"name", "paint", "colour", "color", "paint name", "colour name"},
    "pigments": {"pigments", "pigment", "codes", "code", "pigment codes", "pigment code", "colour index"},
    "form": {"form", "kind", "format"},
    "transparency": {"transparency", "opacity"},
    "staining": {"staining", "stain"},
    "granulation": {"granulation", "granulating"},
    "lightfastness": {"lightfastness", "light-fastness", "light fastness", "permanence"},
    "range": {"range", "line", "set", "collection"},
    "place": {"place", "number", "no", "no.", "position"},
    "series": {"series", "price group"},
    "size_ml": {"size", "size ml", "ml", "volume"},
    "price": {"price", "cost"},
    "currency": {"currency"},
    "batch": {"batch", "lot"},
    "hazards": {"hazards", "hazard", "warnings", "safety"},
    "sparkles": {"sparkles", "sparkling"},
    "owned": {"owned", "have", "have it", "here"},
    "note": {"note", "notes", "remark", "remarks", "comment"},
}
_YES, _NO = {"yes", "y", "true", "1", "x"}, {"no", "n", "false", "0"}
_FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True, slots=True)
class Row:
    """One line of the file as a paint would become, and what is wrong with it."""

    line: int
    values: dict[str, str]
    problems: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Preview:
    columns: tuple[str, ...]
    mapping: dict[str, str]  # field → column
    rows: tuple[Row, ...]

    @property
    def good(self) -> bool:
        return bool(self.rows) and not any(row.problems for row in self.rows)


def preview(data: bytes, mapping: dict[str, str] | None = None) -> Preview:
    """Reads `data`; without `mapping` columns are guessed from their headings. Raises Problem for what is no table."""
    table = _table(data)
    columns = tuple(cell.strip() for cell in table[0])
    chosen = _checked(mapping, columns) if mapping is not None else _guess(columns)
    known = {(p.maker.name.lower(), p.name.lower()) for p in Paint.objects.select_related("maker")}
    rows = []
    for line, cells in enumerate(table[1:], start=2):
        if not any(cell.strip() for cell in cells):
            continue
        by_column = dict(zip(columns, cells, strict=False))
        values = {field: _plain(by_column.get(column, "")) for field, column in chosen.items()}
        problems = _problems(values, len(cells), len(columns))
        key = (values.get("maker", "").lower(), values.get("name", "").lower())
        if all(key) and key in known:
            problems.append(f"{values['maker']} already has a paint named {values['name']}")
        known.add(key)
        rows.append(Row(line, values, tuple(problems)))
    if len(rows) > MAXIMUM_ROWS:
        raise Problem("too-many-rows", f"The file has {len(rows)} rows; bring in at most {MAXIMUM_ROWS} at a time.", 422)
    return Preview(columns, chosen, tuple(rows))


@transaction.atomic
def bring_in(data: bytes, mapping: dict[str, str]) -> int:
    """All paints of the file, or none; returns how many. Raises Problem with the first fault."""
    found = preview(data, mapping)
    faults = [row for row in found.rows if row.problems]
    if faults:
        first = faults[0]
        raise Problem(
            "faulty-rows",
            f"Nothing was brought in: {len(faults)} rows have faults, the first in line {first.line}: {first.problems[0]}.",
            422,
        )
    if not found.rows:
        raise Problem("no-rows", "The file has a heading but no paints under it; nothing was brought in.", 422)
    for row in found.rows:
        values = row.values
        add_paint(
            maker=values["maker"],
            name=values["name"],
            pigments=_codes(values.get("pigments", "")),
            form=_form(values.get("form", "")) or PaintForm.TUBE,
            claims={claim: values[claim] for claim in CLAIMS if values.get(claim)},
            place=int(values["place"]) if values.get("place") else None,
            sparkles=_flag(values.get("sparkles", ""), False),
            owned=_flag(values.get("owned", ""), True),
            **{field: values.get(field, "") for field in _TEXTS},
        )
    return len(found.rows)


def as_csv(paints: Iterable[Paint]) -> str:
    """All paints as CSV that this reader takes again and that no spreadsheet takes for formulas."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(FIELDS)
    for paint in paints:
        amounts = ["" if v is None else str(v) for v in (paint.size_ml, paint.price)]
        cells = [paint.maker.name, paint.name, " ".join(paint.pigments), paint.form, paint.range.name if paint.range else "",
                 "" if paint.place is None else str(paint.place), paint.series, *amounts, paint.currency,
                 *(paint.claims.get(c, "") for c in CLAIMS), paint.batch, paint.hazards, "yes" if paint.sparkles else "no",
                 "yes" if paint.owned else "no", paint.note]  # fmt: skip
        writer.writerow(["'" + cell if cell.startswith(_FORMULA_STARTS) else cell for cell in cells])
    return out.getvalue()


def _table(data: bytes) -> list[list[str]]:
    if len(data) > MAXIMUM_BYTES:
        raise Problem(
            "too-large",
            f"The file is larger than {MAXIMUM_BYTES // 10**6} MB, more than any list of paints; check that it is the right one.",
            413,
        )
    text = _text(data)
    if text.lstrip()[:1] in {"{", "["}:
        return _table_of_json(text)
    lines = text.splitlines()
    if not lines or not lines[0].strip():
        raise Problem("empty-file", "The file is empty or has no heading in its first line; give each column a heading.", 422)
    separator = max(";\t,", key=lines[0].count)
    try:
        table = list(csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True))
    except csv.Error as problem:
        raise Problem("no-table", f"The file cannot be read as a table ({problem}); save it again as CSV.", 422) from problem
    if len(table[0]) < 2:
        raise Problem("no-table", "The file has only one column; save it as CSV with a comma, semicolon or tab between columns.", 422)
    return table


def _table_of_json(text: str) -> list[list[str]]:
    """The application's own JSON of paints as the same table; claims become columns of their own."""
    try:
        document = json.loads(text)
    except ValueError as problem:
        raise Problem("no-table", f"The file begins like JSON but is none ({problem}); export it again.", 422) from problem
    if not isinstance(document, dict) or document.get("format") != "gelvet.paints" or not isinstance(document.get("paints"), list):
        raise Problem("no-table", "The JSON file holds no list of paints in Gelvet's format; a CSV file works from any program.", 422)
    if document.get("version") != 1:
        raise Problem("no-table", "The file was written by a newer Gelvet; bring that version here first.", 422)
    rows = [_cells_of_json(item) for item in document["paints"] if isinstance(item, dict)]
    return [list(FIELDS), *rows]


def _cells_of_json(item: dict[str, Any]) -> list[str]:
    claims = item.get("claims") if isinstance(item.get("claims"), dict) else {}
    values = {**item, **(claims or {})}
    pigments = values.get("pigments")
    values["pigments"] = " ".join(map(str, pigments)) if isinstance(pigments, list) else ""
    return ["" if values.get(field) is None else str(values[field]) for field in FIELDS]


def _text(data: bytes) -> str:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", "replace")
    if b"\0" in data:
        raise Problem("no-table", "The file is not text; save the spreadsheet as CSV first.", 422)
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("cp1252", "replace")


def _guess(columns: tuple[str, ...]) -> dict[str, str]:
    found: dict[str, str] = {}
    for field, headings in _HEADINGS.items():
        for column in columns:
            if column.lower() in headings and column not in found.values():
                found.setdefault(field, column)
    return found


def _checked(mapping: dict[str, str], columns: tuple[str, ...]) -> dict[str, str]:
    for field, column in mapping.items():
        if field not in FIELDS or column not in columns:
            raise Problem("unknown-column", f"The file has no column {column!r} for {field}; choose its columns again.", 422)
    return mapping


def _plain(cell: str) -> str:
    """The cell's text; an apostrophe that hides a formula from spreadsheets is taken off."""
    text = cell.strip()
    return text[1:].strip() if text[:1] == "'" and text[1:2] in _FORMULA_STARTS else text


def _problems(values: dict[str, str], cells: int, columns: int) -> list[str]:
    found = [f"it has no {field}" for field in ("maker", "name") if not values.get(field)]
    if cells > columns:
        found.append(f"it has {cells} cells under {columns} headings")
    found += [f"{code!r} is not a pigment code" for code in _codes(values.get("pigments", "")) if not well_formed(code)]
    if values.get("form") and _form(values["form"]) is None:
        found.append(f"there is no paint form {values['form']!r}; use {', '.join(PaintForm.values)}")
    if values.get("place") and not values["place"].isdecimal():
        found.append(f"its place in the range, {values['place']!r}, is not a whole number")
    for field in ("sparkles", "owned"):
        if values.get(field) and values[field].lower() not in _YES | _NO:
            found.append(f"{field} is {values[field]!r}; write yes or no")
    for field in ("size_ml", "price"):
        try:
            read_amount(values.get(field, ""), field.removesuffix("_ml"))
        except Problem as problem:
            found.append(problem.sentence.removesuffix("."))
    return found


def _flag(text: str, usual: bool) -> bool:
    return usual if not text else text.lower() in _YES


def _codes(text: str) -> list[str]:
    """Codes parted by spaces, commas, semicolons, pluses or slashes."""
    for mark in ",;+/|&":
        text = text.replace(mark, " ")
    return list(dict.fromkeys(tidy(word) for word in text.split()))


def _form(text: str) -> str | None:
    word = text.lower()
    labels = {str(label): str(value) for value, label in PaintForm.choices}
    plural = word.removesuffix("s")
    return next((form for form in (word, plural) if form in PaintForm.values), labels.get(word) or labels.get(plural))
