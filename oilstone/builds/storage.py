"""Builds between the core's dataclasses and the tables."""

from collections.abc import Iterable, Mapping
from dataclasses import fields
from typing import Any

from circuitry.design.model import Body, Build, Policy
from circuitry.document.checks import check
from circuitry.document.reading import COLLECTIONS, read_thing, write_thing
from circuitry.edits import Change
from circuitry.errors import UnusableInput
from oilstone.builds import models
from oilstone.trouble import UnreadableBuild

TABLES: Mapping[str, type[models.Thing]] = {
    "places": models.Place,
    "runs": models.Run,
    "parts": models.Part,
    "wires": models.Wire,
    "circuits": models.Circuit,
    "found_circuits": models.FoundCircuit,
    "pin_pairs": models.PinPair,
    "harness_circuits": models.HarnessCircuit,
    "acceptances": models.Acceptance,
    "scenarios": models.Scenario,
    "reels": models.Reel,
}


KEPT_COLUMNS = ("id", "build", "identity", "position")


def load(row: models.Build) -> Build:
    """The core's build of a stored one; raises UnreadableBuild where it cannot be made."""
    try:
        build = _load(row)
        check(build)
    except (UnusableInput, TypeError, ValueError, KeyError, AttributeError) as problem:
        raise UnreadableBuild(row.name) from problem
    return build


def _load(row: models.Build) -> Build:
    collections = {
        name: {thing.identity: _read(name, thing) for thing in table.objects.filter(build=row)}
        for name, table in TABLES.items()
    }
    return Build(
        row.name,
        row.body_conducts,
        read_thing(Policy, row.policy),
        read_thing(Body, row.body),
        row.harness_from,
        **collections,
    )


def create(build: Build) -> models.Build:
    """Store a new build whole."""
    row = models.Build.objects.create(
        name=build.name,
        body_conducts=build.body_conducts,
        policy=write_thing(build.policy),
        body=write_thing(build.body),
        harness_from=build.harness_from,
    )
    for name, table in TABLES.items():
        things = getattr(build, name).values()
        table.objects.bulk_create(
            table(build=row, identity=thing.id, position=number, **_columns(thing))
            for number, thing in enumerate(things)
        )
    return row


def save(row: models.Build, build: Build, changes: Iterable[Change]) -> None:
    """Store what changed; ``build`` is the build after the changes."""
    row.name, row.body_conducts = build.name, build.body_conducts
    row.policy, row.body = write_thing(build.policy), write_thing(build.body)
    row.harness_from = build.harness_from
    changed: dict[str, list[Change]] = {}
    for change in changes:
        if change.collection in TABLES:
            changed.setdefault(change.collection, []).append(change)
    for name, mine in changed.items():
        _save_collection(row, name, getattr(build, name), mine)
    row.save()


def _save_collection(
    row: models.Build, name: str, things: Mapping[str, Any], changes: list[Change]
) -> None:
    table = TABLES[name]
    gone = [change.id for change in changes if change.after is None]
    came = [change.id for change in changes if change.before is None]
    other = {change.id for change in changes if change.before and change.after}
    if gone:
        table.objects.filter(build=row, identity__in=gone).delete()
    if came:
        table.objects.bulk_create(
            table(build=row, identity=thing, position=len(things), **_columns(things[thing]))
            for thing in came
        )
    if other:
        stored = list(table.objects.filter(build=row, identity__in=other))
        for thing in stored:
            for column, value in _columns(things[thing.identity]).items():
                setattr(thing, column, value)
        columns = [field.name for field in table._meta.fields if field.name not in KEPT_COLUMNS]
        table.objects.bulk_update(stored, columns, batch_size=100)
    if gone or came:
        _keep_order(row, name, things)


def _keep_order(row: models.Build, name: str, things: Mapping[str, Any]) -> None:
    order = {identity: number for number, identity in enumerate(things)}
    moved = []
    for thing in TABLES[name].objects.filter(build=row).only("identity", "position"):
        if thing.position != order[thing.identity]:
            thing.position = order[thing.identity]
            moved.append(thing)
    TABLES[name].objects.bulk_update(moved, ["position"], batch_size=200)


def _columns(thing: Any) -> dict[str, Any]:
    """Every column of a thing, those at their default included."""
    written = write_thing(thing, every_field=True)
    return {name: value for name, value in written.items() if name != "id"}


def _read(collection: str, row: models.Thing) -> Any:
    kind = COLLECTIONS[collection]
    values = {field.name: getattr(row, field.name) for field in fields(kind) if field.name != "id"}
    return read_thing(kind, {"id": row.identity, **values})
