"""Results as plain JSON values."""

from collections.abc import Mapping
from dataclasses import fields, is_dataclass
from typing import Any

from circuitry.design.model import Terminal


def plain(value: Any) -> Any:
    """Dataclasses to objects, tuples and sets to lists, terminals to ``part.name``."""
    if isinstance(value, Terminal):
        return str(value)
    if is_dataclass(value) and not isinstance(value, type):
        return {field.name: plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, Mapping):
        return {str(name): plain(item) for name, item in value.items()}
    if isinstance(value, frozenset):
        return [plain(item) for item in sorted(value)]
    if isinstance(value, (list, tuple)):
        return [plain(item) for item in value]
    return value
