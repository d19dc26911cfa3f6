"""Operations on a build, as JSON objects: all of them apply, or none does.

``add``, ``change`` and ``remove`` work on one thing of a collection; ``add_load``,
``rewire_circuit`` and ``remove_load`` write or take out whole circuits by recipe.
"""

import json
from collections.abc import Callable, Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from jsonschema import Draft202012Validator
from jsonschema.exceptions import best_match

from circuitry.build.checks import check
from circuitry.build.document import (
    COLLECTIONS,
    read_thing,
    schema_problem,
    validate,
    with_collection,
    write_thing,
)
from circuitry.build.model import Build, Policy
from circuitry.edits.changes import BUILD
from circuitry.errors import UnusableInput
from circuitry.recipes.load import LoadRequest, Wiring, add_load, remove_load, rewire_circuit

SCHEMA_FILE = Path(__file__).parent / "operations.schema.json"
Operation = Mapping[str, Any]


def apply_operations(build: Build, operations: object) -> Build:
    """The build after a list of operations, checked as a whole; raises UnusableInput."""
    error = best_match(_validator().iter_errors(operations))
    if error is not None:
        raise schema_problem(operations, error)
    assert isinstance(operations, list)
    for operation in operations:
        build = _APPLY[operation["op"]](build, operation)
    check(build)
    return build


@cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(json.loads(SCHEMA_FILE.read_text(encoding="utf-8")))


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
    unknown = set(fields) - {"name", "body_conducts", "policy"}
    if unknown:
        raise UnusableInput(
            "bad-field", BUILD, f"A build has no field {', '.join(sorted(unknown))}."
        )
    policy = {**write_thing(build.policy), **fields.get("policy", {})}
    validate(policy, "#/$defs/policy")
    validate(fields.get("name", build.name), "#/$defs/name")
    if not isinstance(fields.get("body_conducts", False), bool):
        raise UnusableInput("bad-field", BUILD, "body_conducts must be true or false.")
    return replace(
        build,
        name=fields.get("name", build.name),
        body_conducts=fields.get("body_conducts", build.body_conducts),
        policy=read_thing(Policy, policy),
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


_APPLY: Mapping[str, Callable[[Build, Operation], Build]] = {
    "add": _add,
    "change": _change,
    "remove": _remove,
    "add_load": _add_load,
    "rewire_circuit": _rewire_circuit,
    "remove_load": _remove_load,
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
