"""Operations on a build, as JSON objects: all of them apply, or none does.

``add``, ``change`` and ``remove`` work on one thing of a collection; ``add_load``,
``rewire_circuit`` and ``remove_load`` write or take out whole circuits by recipe; ``set_cells``,
``wire_load``, ``unwire_load`` and ``remove_row`` work on the stock list, ``set_harness`` on a
ready-made harness, ``set_run``, ``pin_way`` and ``move_part`` on the layout. ``write_recipe``
writes a function, ``add_wire``, ``add_part``, ``insert``, ``split_load``, ``move_circuit``,
``merge_circuits``, ``mirror_circuit`` and ``recolour`` change circuits by hand, ``set_points`` and
``set_figures`` the pins, ways and figures of a part.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from jsonschema.exceptions import best_match

from circuitry.design.model import Body, Build, Policy, Terminal
from circuitry.document.reading import (
    COLLECTIONS,
    Validator,
    hold,
    hold_plain,
    read_thing,
    schema_problem,
    validate,
    with_collection,
    write_thing,
)
from circuitry.edits.changes import BUILD
from circuitry.errors import UnusableInput
from circuitry.layout.pinning import pinned_way
from circuitry.layout.typed import set_run
from circuitry.progress import told
from circuitry.recipes.book import recipe_named
from circuitry.recipes.figures import set_figures
from circuitry.recipes.legs import add_part, add_wire, insert
from circuitry.recipes.load import (
    LoadRequest,
    Wiring,
    add_load,
    remove_load,
    rewire_circuit,
    unwire_load,
)
from circuitry.recipes.points import Point, set_points
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.whole import (
    merge_circuits,
    mirror_circuit,
    move_circuit,
    recolour,
    split_load,
)
from circuitry.sizing.placement import moved
from circuitry.stock import TypedRow, found_by_name, set_cells, wire_as_wished
from circuitry.stock.harness import set_harness

SCHEMA_FILE = Path(__file__).parent / "operations.schema.json"
Operation = Mapping[str, Any]


def apply_operations(build: Build, operations: object) -> Build:
    """The build after a list of operations, checked as a whole; raises UnusableInput."""
    hold_plain(operations, "operations")
    error = best_match(_validator().iter_errors(operations))
    if error is not None:
        raise schema_problem(operations, error)
    assert isinstance(operations, list)
    before = build
    for operation in told("Making the changes", operations):
        build = _APPLY[operation["op"]](build, operation)
    hold(build, before)
    return build


@cache
def _validator() -> Any:
    return Validator(json.loads(SCHEMA_FILE.read_text(encoding="utf-8")))


def _add(build: Build, operation: Operation) -> Build:
    collection, value = operation["collection"], operation["value"]
    if collection == BUILD:
        raise UnusableInput("bad-operation", BUILD, "A build cannot be added to a build.")
    validate(value, f"#/$defs/{collection.removesuffix('s')}")
    things = getattr(build, collection)
    if value["id"] in things:
        raise UnusableInput(
            "two-ids", value["id"], f"There is already one of {collection} with id “{value['id']}”."
        )
    return _with(build, collection, value["id"], value)


def _change(build: Build, operation: Operation) -> Build:
    collection, fields = operation["collection"], operation["fields"]
    if collection == BUILD:
        return _change_build(build, fields)
    thing = _find(build, collection, operation["id"])
    if "id" in fields:
        raise UnusableInput("bad-operation", operation["id"], "An id cannot be changed.")
    value = {**write_thing(thing), **fields}
    validate(value, f"#/$defs/{collection.removesuffix('s')}")
    return _with(build, collection, operation["id"], value)


def _change_build(build: Build, fields: Mapping[str, Any]) -> Build:
    unknown = set(fields) - {"name", "body_conducts", "policy", "body", "harness_from"}
    if unknown:
        raise UnusableInput(
            "bad-field", BUILD, f"A build has no field {', '.join(sorted(unknown))}."
        )
    for name in ("policy", "body"):
        if not isinstance(fields.get(name, {}), dict):
            raise UnusableInput("bad-field", BUILD, f"{name} must be an object of its fields.")
    policy = {**write_thing(build.policy), **fields.get("policy", {})}
    validate(policy, "#/$defs/policy")
    body = {**write_thing(build.body), **fields.get("body", {})}
    validate(body, "#/$defs/body")
    validate(fields.get("name", build.name), "#/$defs/name")
    validate(fields.get("harness_from"), "#/$defs/optional_id")
    if not isinstance(fields.get("body_conducts", False), bool):
        raise UnusableInput("bad-field", BUILD, "body_conducts must be true or false.")
    return replace(
        build,
        name=fields.get("name", build.name),
        body_conducts=fields.get("body_conducts", build.body_conducts),
        policy=read_thing(Policy, policy),
        body=read_thing(Body, body),
        harness_from=fields.get("harness_from", build.harness_from),
    )


def _remove(build: Build, operation: Operation) -> Build:
    collection = operation["collection"]
    if collection == BUILD:
        raise UnusableInput("bad-operation", BUILD, "A build cannot remove itself.")
    _find(build, collection, operation["id"])
    things = dict(getattr(build, collection))
    del things[operation["id"]]
    return with_collection(build, collection, things)


def _add_load(build: Build, operation: Operation) -> Build:
    return add_load(
        build,
        LoadRequest(
            operation["name"].strip(),
            operation["catalogue"],
            operation["place"],
            read_thing(Wiring, operation.get("wiring", {})),
            operation.get("beside"),
        ),
    )


def _rewire_circuit(build: Build, operation: Operation) -> Build:
    return rewire_circuit(build, operation["circuit"], read_thing(Wiring, operation["wiring"]))


def _remove_load(build: Build, operation: Operation) -> Build:
    return remove_load(build, operation["load"])


def _set_cells(build: Build, operation: Operation) -> Build:
    rows = [TypedRow(row.get("part"), row["cells"]) for row in operation["rows"]]
    if operation.get("by_name"):
        rows = found_by_name(build, rows)
    return set_cells(build, rows, operation.get("new_places", False))


def _wire_load(build: Build, operation: Operation) -> Build:
    return wire_as_wished(build, operation["load"])


def _unwire_load(build: Build, operation: Operation) -> Build:
    return unwire_load(build, operation["load"])


def _remove_row(build: Build, operation: Operation) -> Build:
    """Take a row out of the list: a load with its wires, anything else only once it is free."""
    part = _find(build, "parts", operation["part"])
    if part.kind == "load":
        return remove_load(build, part.id)
    labels = [
        wire.label
        for wire in build.wires.values()
        if part.id in (wire.from_terminal.part, wire.to_terminal.part)
    ]
    if labels:
        shown = ", ".join(labels[:5]) + (" …" if len(labels) > 5 else "")
        raise UnusableInput(
            "still-wired",
            part.id,
            f"{part.name} still has {len(labels)} wires: {shown}. Take them off it first.",
        )
    return _remove(build, {"collection": "parts", "id": part.id})


def _pin_way(build: Build, operation: Operation) -> Build:
    """Lead a wire along chosen runs; without any it takes the shortest way again."""
    wire = _find(build, "wires", operation["wire"])
    way = pinned_way(build, wire, tuple(operation["through"])) if operation["through"] else None
    wires = {**build.wires, wire.id: replace(wire, way=way)}
    return with_collection(build, "wires", wires)


def _move_part(build: Build, operation: Operation) -> Build:
    return moved(build, operation["part"], operation["place"])


def _set_run(build: Build, operation: Operation) -> Build:
    return set_run(build, operation.get("run"), operation["cells"])


def _set_harness(build: Build, operation: Operation) -> Build:
    return set_harness(build, operation.get("harness"), operation["cells"])


def _write_recipe(build: Build, operation: Operation) -> Build:
    recipe = recipe_named(operation["recipe"])
    name, circuit = operation.get("name"), operation.get("circuit")
    return write_recipe(build, recipe, operation.get("answers", {}), name, circuit)


def _add_wire(build: Build, operation: Operation) -> Build:
    ends = Terminal.parse(operation["from_terminal"]), Terminal.parse(operation["to_terminal"])
    return add_wire(build, *ends, operation.get("circuit"))


def _add_part(build: Build, operation: Operation) -> Build:
    return add_part(
        build,
        operation["kind"],
        operation["name"].strip(),
        operation["place"] or "",
        operation.get("row"),
        operation.get("circuit"),
        operation.get("count", 1),
    )


def _insert(build: Build, operation: Operation) -> Build:
    return insert(
        build,
        operation["wire"],
        operation["kind"],
        operation.get("place"),
        operation.get("name", ""),
        operation.get("power"),
        operation.get("into"),
        operation.get("count", 1),
    )


def _split_load(build: Build, operation: Operation) -> Build:
    return split_load(build, operation["load"])


def _move_circuit(build: Build, operation: Operation) -> Build:
    return move_circuit(
        build,
        operation["circuit"],
        operation.get("panel"),
        operation.get("way"),
        operation.get("ground"),
        operation.get("any_key", False),
    )


def _merge_circuits(build: Build, operation: Operation) -> Build:
    return merge_circuits(build, operation["into"] or "", operation["circuits"])


def _mirror_circuit(build: Build, operation: Operation) -> Build:
    return mirror_circuit(build, operation["circuit"])


def _set_points(build: Build, operation: Operation) -> Build:
    return set_points(build, operation["part"], [Point(**row) for row in operation["points"]])


def _set_figures(build: Build, operation: Operation) -> Build:
    return set_figures(build, operation["part"], operation["cells"])


def _recolour(build: Build, operation: Operation) -> Build:
    return recolour(build)


_APPLY: Mapping[str, Callable[[Build, Operation], Build]] = {
    "add": _add,
    "change": _change,
    "remove": _remove,
    "add_load": _add_load,
    "rewire_circuit": _rewire_circuit,
    "remove_load": _remove_load,
    "set_cells": _set_cells,
    "wire_load": _wire_load,
    "unwire_load": _unwire_load,
    "remove_row": _remove_row,
    "pin_way": _pin_way,
    "move_part": _move_part,
    "set_run": _set_run,
    "set_harness": _set_harness,
    "write_recipe": _write_recipe,
    "add_wire": _add_wire,
    "add_part": _add_part,
    "insert": _insert,
    "split_load": _split_load,
    "move_circuit": _move_circuit,
    "merge_circuits": _merge_circuits,
    "mirror_circuit": _mirror_circuit,
    "recolour": _recolour,
    "set_points": _set_points,
    "set_figures": _set_figures,
}


def _with(build: Build, collection: str, thing_id: str, value: Mapping[str, Any]) -> Build:
    thing = read_thing(COLLECTIONS[collection], value)
    return with_collection(build, collection, {**getattr(build, collection), thing_id: thing})


def _find(build: Build, collection: str, thing_id: str) -> Any:
    things: Mapping[str, Any] = getattr(build, collection)
    if thing_id not in things:
        raise UnusableInput(
            "unknown-id", thing_id, f"The build has no “{thing_id}” among its {collection}."
        )
    return things[thing_id]
