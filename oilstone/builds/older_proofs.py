"""Proofs as they were kept before steps: volts and amps by load of a circuit."""

from collections.abc import Iterable, Iterator, Mapping
from typing import Any

UNITS = {"volts": "V", "amps": "A"}


def by_reading(rows: Iterable[Mapping[str, Any]]) -> list[Mapping[str, Any]]:
    """The readings of an older proof, a row each, as they are kept now."""
    return [reading for row in rows for reading in (_each(row) if "load" in row else (row,))]


def _each(row: Mapping[str, Any]) -> Iterator[Mapping[str, Any]]:
    for kind, unit in UNITS.items():
        value, band = row.get(kind), row.get(f"{kind}_band") or {}
        if value is None:
            continue
        yield {
            "id": f"{kind}/{row['load']}",
            "name": f"{kind.capitalize()} at {row.get('name') or row['load']}",
            "unit": unit,
            "text": f"{value:g}",
            "value": value,
            "expected": band.get("expected"),
            "low": band.get("low", 0.0),
            "high": band.get("high"),
            "verdict": row.get(f"{kind}_verdict") or "",
            "hint": "",
        }
