"""What differs between two builds, as things before and after; enough to redo and to undo."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from circuitry.build.document import COLLECTIONS, read_thing, with_collection, write_thing
from circuitry.build.model import Body, Build, Policy

BUILD = "build"


@dataclass(frozen=True)
class Change:
    """One thing before and after, as JSON objects; None where it is not there.

    ``collection`` is places, runs, parts, wires or circuits, or ``build`` for the build's own
    name, body and policy. ``index`` is where it stands in its collection, before when it goes
    and after when it comes, so that undoing a removal puts it back where it was.
    """

    collection: str
    id: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None
    index: int = 0


def differences(old: Build, new: Build) -> list[Change]:
    """The changes that lead from one build to the other."""
    changes = []
    if _own(old) != _own(new):
        changes.append(Change(BUILD, BUILD, _own(old), _own(new)))
    for name in COLLECTIONS:
        before, after = getattr(old, name), getattr(new, name)
        index = _order(before) | _order(after)
        for thing_id in dict.fromkeys([*before, *after]):
            was, now = before.get(thing_id), after.get(thing_id)
            if was != now:
                changes.append(
                    Change(
                        name,
                        thing_id,
                        write_thing(was) if was else None,
                        write_thing(now) if now else None,
                        index[thing_id],
                    )
                )
    return changes


def apply_changes(build: Build, changes: list[Change]) -> Build:
    """The build after these changes: what goes first, then what comes, each to its place."""
    for change in sorted(changes, key=_goes_before_comes):
        if change.collection == BUILD:
            own = change.after or {}
            build = replace(
                build,
                name=own["name"],
                body_conducts=own["body_conducts"],
                policy=read_thing(Policy, own["policy"]),
                body=read_thing(Body, own.get("body", {})),
                harness_from=own.get("harness_from"),
            )
            continue
        things = dict(getattr(build, change.collection))
        if change.after is None:
            things.pop(change.id, None)
        else:
            thing = read_thing(COLLECTIONS[change.collection], change.after)
            things = _put(things, change, thing)
        build = with_collection(build, change.collection, things)
    return build


def inverse(changes: list[Change]) -> list[Change]:
    """The changes that take these back."""
    return [Change(c.collection, c.id, c.after, c.before, c.index) for c in changes]


def _goes_before_comes(change: Change) -> tuple[bool, int]:
    return (change.before is None, change.index)


def _order(things: Mapping[str, Any]) -> dict[str, int]:
    return {thing_id: index for index, thing_id in enumerate(things)}


def _put(things: dict[str, Any], change: Change, thing: Any) -> dict[str, Any]:
    if change.id in things:
        return {**things, change.id: thing}
    order = list(things)
    order.insert(change.index, change.id)
    return {thing_id: things.get(thing_id, thing) for thing_id in order}


def _own(build: Build) -> dict[str, Any]:
    return {
        "name": build.name,
        "body_conducts": build.body_conducts,
        "policy": write_thing(build.policy),
        "body": write_thing(build.body),
        "harness_from": build.harness_from,
    }
