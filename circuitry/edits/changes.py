"""What differs between two builds, as things before and after; enough to redo and to undo."""

from bisect import bisect_left
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from circuitry.design.model import Body, Build, Policy
from circuitry.document.reading import COLLECTIONS, read_thing, with_collection, write_thing
from circuitry.document.versions import upgraded

BUILD = "build"


@dataclass(frozen=True)
class Change:
    """One thing before and after, as JSON objects; None where it is not there.

    A thing that moves among its like goes and comes.

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
        changes += _in_collection(name, getattr(old, name), getattr(new, name))
    return changes


def _in_collection(
    name: str, before: Mapping[str, Any], after: Mapping[str, Any]
) -> Iterator[Change]:
    old_order, new_order = _order(before), _order(after)
    moved = _moved(list(before), new_order)
    for thing in dict.fromkeys([*before, *after]):
        was, now = before.get(thing), after.get(thing)
        if was == now and thing not in moved:
            continue
        old = write_thing(was) if was else None
        new = write_thing(now) if now else None
        if thing in moved or was is None or now is None:
            if old is not None:
                yield Change(name, thing, old, None, old_order[thing])
            if new is not None:
                yield Change(name, thing, None, new, new_order[thing])
        else:
            yield Change(name, thing, old, new, new_order[thing])


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


def upgraded_change(change: Change, version: int) -> Change:
    """A change that was stored by an older version of the format, as the present one writes it."""
    before, after = (
        row and upgraded(change.collection, row, version) for row in (change.before, change.after)
    )
    return replace(change, before=before, after=after)


def inverse(changes: list[Change]) -> list[Change]:
    """The changes that take these back."""
    return [Change(c.collection, c.id, c.after, c.before, c.index) for c in changes]


def _goes_before_comes(change: Change) -> tuple[bool, int]:
    return (change.before is None, change.index)


def _moved(old: list[str], new_order: Mapping[str, int]) -> set[str]:
    """Things that stand elsewhere among their like: all but a longest run that kept its order."""
    kept = [thing for thing in old if thing in new_order]
    tails: list[int] = []
    ends: list[str] = []
    before: dict[str, str | None] = {}
    for thing in kept:
        place = bisect_left(tails, new_order[thing])
        before[thing] = ends[place - 1] if place else None
        tails[place : place + 1] = [new_order[thing]]
        ends[place : place + 1] = [thing]
    still: set[str] = set()
    thing_id = ends[-1] if ends else None
    while thing_id is not None:
        still.add(thing_id)
        thing_id = before[thing_id]
    return set(kept) - still


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
