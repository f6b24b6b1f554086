"""Full-text search over everything that people write: SQLite's own index, kept by the rows' saving."""

import re
from dataclasses import dataclass

from django.db import connection, models

from gelvet.core.pigments.pigment_list import find
from gelvet.site.bench.models import BenchEntry, Card, Session
from gelvet.site.library.models import Paint, Paper

LIMIT = 40


@dataclass(frozen=True, slots=True)
class Hit:
    kind: str
    title: str
    excerpt: str
    url: str


def search(words: str) -> list[Hit]:
    """Rows that hold all words, each from its beginning; the best first. Punctuation never breaks the query."""
    terms = re.findall(r"\w+", words, re.UNICODE)
    if not terms:
        return []
    query = " ".join(f'"{term}"*' for term in terms)
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT kind, title, snippet(search_index, 3, '', '', ' … ', 12), url FROM search_index "
            "WHERE search_index MATCH %s ORDER BY bm25(search_index, 0, 0, 5.0, 1.0, 0) LIMIT %s",
            [query, LIMIT],
        )
        return [Hit(*row) for row in cursor.fetchall()]


def index(row: models.Model) -> None:
    """Puts `row` into the index, or takes it out where it lies in the bin."""
    entry = _entry(row)
    if entry is None:
        return
    kind, title, body, url = entry
    key = f"{kind}:{row.pk}"
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM search_index WHERE key = %s", [key])
        if getattr(row, "binned", None) is None:
            cursor.execute(
                "INSERT INTO search_index (kind, key, title, body, url) VALUES (%s, %s, %s, %s, %s)", [kind, key, title, body, url]
            )


def rebuild() -> int:
    """The whole index anew; returns how many rows it holds."""
    count = 0
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM search_index")
    for model in (Paint, Paper, Session, Card, BenchEntry):
        for row in model._base_manager.all():
            index(row)
            count += 1
    return count


def _entry(row: models.Model) -> tuple[str, str, str, str] | None:
    match row:
        case Paint():
            known = [f"{p.name} {p.hue}" for p in map(find, row.pigments) if p is not None]
            parts = [row.maker.name, " ".join(row.pigments), *known, row.range.name if row.range else "", row.series, row.batch, row.note]
            return "paint", row.name, " · ".join(p for p in [*parts, row.hazards] if p), f"/library/{row.pk}"
        case Paper():
            return "paper", row.name, " · ".join(p for p in (row.surface, row.fibre, row.note) if p), "/library?show=papers"
        case Session():
            practice = " ".join(str(v) for v in (row.options.get("practice") or {}).values())
            return "session", row.name, f"{row.get_question_display()} {row.note} {practice}".strip(), f"/ask/{row.pk}"
        case Card():
            labels = " · ".join(s.get("label", "") for s in row.layout.get("swatches", []))
            return "card", row.card_id, labels, f"/card/{row.card_id}"
        case BenchEntry(kind="note" | "mishap"):
            return row.kind, row.text, f"{row.card.card_id} {row.swatch}".strip(), f"/paint/{row.card.card_id}"
        case _:
            return None
