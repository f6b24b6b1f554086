"""What a search finds, and what lies in the bin."""

from ninja import Schema

from gelvet.site.api.schemas.library import ChoiceOut


class HitOut(Schema):
    kind: str
    title: str
    excerpt: str
    url: str


class BinOut(Schema):
    """`parts` are papers, brushes and targets, by the word that their addresses use."""

    sessions: list[ChoiceOut]
    paints: list[ChoiceOut]
    parts: dict[str, list[ChoiceOut]]
