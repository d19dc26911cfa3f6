"""Builds between the core's dataclasses and the tables."""

from collections.abc import Iterable, Mapping
from dataclasses import fields
from typing import Any

from circuitry.build.document import COLLECTIONS, read_thing, write_thing
from circuitry.build.model import Build, Policy
from circuitry.edits import Change
from server.builds import models

TABLES: Mapping[str, type[models.Thing]] = {
    "places": models.Place,
    "runs": models.Run,
    "parts": models.Part,
    "wires": models.Wire,
    "circuits": models.Circuit,
}


def load(row: models.Build) -> Build:
    """The core's build of a stored one."""
    collections = {
        name: {thing.identity: _read(name, thing) for thing in table.objects.filter(build=row)}
        for name, table in TABLES.items()
    }
    policy = read_thing(Policy, row.policy)
    return Build(row.name, row.body_conducts, policy, **collections)


def create(build: Build) -> models.Build:
    """Store a new build whole."""
    row = models.Build.objects.create(
        name=build.name, body_conducts=build.body_conducts, policy=write_thing(build.policy)
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
    row.policy = write_thing(build.policy)
    reordered = set()
    for change in changes:
        if change.collection not in TABLES:
            continue
        table = TABLES[change.collection]
        things = getattr(build, change.collection)
        if change.after is None:
            table.objects.filter(build=row, identity=change.id).delete()
        else:
            values = _columns(things[change.id])
            table.objects.update_or_create(
                build=row,
                identity=change.id,
                defaults=values,
                create_defaults={**values, "position": len(things)},
            )
        if change.before is None or change.after is None:
            reordered.add(change.collection)
    for name in reordered:
        _keep_order(row, name, getattr(build, name))
    row.save()


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
