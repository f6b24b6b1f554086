"""JSON documents with a schema: read, check, explain what is wrong in one sentence."""

import json
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from gelvet.core.errors import UnreadableInput


@cache
def schema(name: str) -> dict[str, Any]:
    """The shipped JSON Schema `name`, for example `card-layout`."""
    text = resources.files("gelvet.core.formats").joinpath(f"schemas/{name}.schema.json").read_text("utf-8")
    loaded: dict[str, Any] = json.loads(text)
    return loaded


def _refuse_constant(word: str) -> float:
    raise ValueError(f"{word} is not a number")


def parse_document(text: str | bytes, name: str, source: str, error: type[UnreadableInput]) -> dict[str, Any]:
    """The JSON object in `text`, checked against schema `name`; raises `error` with one sentence naming `source`."""
    try:
        document = json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, RecursionError) as problem:
        raise error(f"{source} is not readable JSON ({_first_line(problem)}); save it again as UTF-8 JSON.") from problem
    return check_document(document, name, source, error)


def check_document(document: Any, name: str, source: str, error: type[UnreadableInput]) -> dict[str, Any]:
    """`document` if it follows schema `name`; raises `error` otherwise."""
    from jsonschema import Draft202012Validator

    if not isinstance(document, dict):
        raise error(f"{source} holds no JSON object; a Gelvet {name} file was expected.")
    version = document.get("version")
    if isinstance(version, int | float) and not isinstance(version, bool) and version >= 2:
        raise error(f"{source} is version {version} of its format and this Gelvet reads version 1; update Gelvet to read it.")
    problems = sorted(Draft202012Validator(schema(name)).iter_errors(document), key=lambda e: len(e.absolute_path))
    if problems:
        place = "/".join(str(p) for p in problems[0].absolute_path) or "its top level"
        message = _first_line(problems[0].message)
        raise error(f"{source} is not a valid {name} file: at {place}, {message}.")
    return document


def read_text(path: Path, error: type[UnreadableInput]) -> str:
    """Text of `path`, UTF-8 with or without a byte order mark; raises `error`."""
    try:
        data = path.read_bytes()
    except OSError as problem:
        raise error(f"{path} cannot be read ({problem.strerror}); check the name and the folder.") from problem
    if not data.strip():
        raise error(f"{path} is empty; export or save it again.")
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _first_line(problem: object) -> str:
    return str(problem).splitlines()[0][:160]
