"""The circuits of a ready-made harness as they are typed or pasted."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from circuitry import quantities
from circuitry.design.model import Build, HarnessCircuit
from circuitry.errors import UnusableInput
from circuitry.quantities import NotUnderstood
from circuitry.recipes.draft import Draft

USUAL_SIZE = {"metric": "1 mm²", "awg": "16 AWG"}


def set_harness(build: Build, circuit_id: str | None, cells: Mapping[str, str]) -> Build:
    """The build with these cells of a harness circuit set; None adds one.

    Cells are name, size, length, fuse, serves and note. Raises UnusableInput.
    """
    rows = dict(build.harness_circuits)
    if circuit_id is None:
        name = cells.get("name", "").strip()
        if not name:
            raise UnusableInput("bad-cell", "name", "A circuit of the harness needs a name.")
        size = USUAL_SIZE[build.policy.conductors]
        row = HarnessCircuit(Draft(build).fresh_id(name, rows), name, size, 1.0)
    elif circuit_id in rows:
        row = rows[circuit_id]
    else:
        raise UnusableInput("unknown-id", circuit_id, "That circuit of the harness is gone.")
    for name, text in cells.items():
        if name not in READ:
            raise UnusableInput("bad-field", row.id, f"A harness circuit has no “{name}”.")
        try:
            row = replace(row, **READ[name](build, text.strip()))
        except NotUnderstood as problem:
            raise UnusableInput(
                "bad-cell", row.id, f"{name} “{text.strip()}”: {problem}."
            ) from None
    rows[row.id] = row
    return replace(build, harness_circuits=rows)


def _name(build: Build, text: str) -> Mapping[str, Any]:
    if not 0 < len(text) <= 80:
        raise NotUnderstood("a name of at most 80 characters")
    return {"name": text}


def _serves(build: Build, text: str) -> Mapping[str, Any]:
    if not text:
        return {"serves": None}
    for load in build.parts_of_kind("load"):
        if text.lower() in (load.id, load.name.lower()):
            return {"serves": load.id}
    raise NotUnderstood("a load of the stock list, or nothing to let the name decide")


READ: Mapping[str, Callable[[Build, str], Mapping[str, Any]]] = {
    "name": _name,
    "size": lambda build, text: {"size": quantities.conductor(text, build.policy.conductors)},
    "length": lambda build, text: {"length_m": quantities.length_m(text)},
    "fuse": lambda build, text: {"fuse_a": quantities.amps(text) if text else None},
    "serves": _serves,
    "note": lambda build, text: {"note": text[:500]},
}
