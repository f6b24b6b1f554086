"""The gates of a stored measurement."""

from collections.abc import Iterable, Mapping
from typing import Any


def any_failed(gates: Iterable[Mapping[str, Any]] | None) -> bool:
    """Whether a gate failed the capture; one that was never measured has failed none."""
    return any(gate["state"] == "fail" for gate in gates or ())
