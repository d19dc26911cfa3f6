"""What is done at the bench, and when: the script from which everything that follows can be told
again, read from open JSON and checked against the build."""

import json
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from circuitry.bench.faults import Fault, fault_from, problem_of
from circuitry.bench.meters import METERS, Meter, meter_from
from circuitry.catalogue import catalogue
from circuitry.design.logic import MOST, VALUES
from circuitry.design.model import KEY_POSITIONS, Build, Part
from circuitry.devices import is_switch
from circuitry.errors import UnusableInput

MOST_ACTIONS = 20_000
LONGEST_S = 24 * 3600.0
SENDER_OHM = (0.1, 100_000.0)
DOES = (
    *("key", "switch", "value", "sender"),
    *("pull", "fit", "reset"),
    *("fault", "mend"),
    *("meter", "lose", "find"),
)
CAN_BE_PULLED = ("fuse", "relay", "load", "connector", "flasher", "resistor", "diode")


@dataclass(frozen=True)
class Action:
    """Something that is done at a time: what, to which thing, and how.

    ``of`` is a part, a value or a meter, ``to`` a position, a figure or None for what the car does
    by itself; faults and meters come whole.
    """

    at_s: float
    do: str
    of: str = ""
    to: str | float | None = None
    fault: Fault | None = None
    meter: Meter | None = None


@dataclass(frozen=True)
class Script:
    """Actions in the order of their times, and when it ends."""

    actions: tuple[Action, ...] = field(default=())
    ends_s: float = 0.0


def read_script(text: str | bytes, build: Build) -> Script:
    """A script from JSON: ``{"actions": [{"at_s": 1, "do": "key", "to": "run"}], "ends_s": 5}``;
    raises UnusableInput, which names the action and the way out."""
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as problem:
        raise UnusableInput("bad-script", "script", f"It is no JSON: {problem}.") from None
    if not isinstance(document, dict) or not isinstance(document.get("actions"), list):
        raise UnusableInput(
            "bad-script", "script", 'A script is an object with a list called "actions".'
        )
    return script_from(document["actions"], build, document.get("ends_s"))


def script_from(rows: Sequence[Any], build: Build, ends_s: Any = None) -> Script:
    """A script of these plain rows; raises UnusableInput."""
    if len(rows) > MOST_ACTIONS:
        raise UnusableInput(
            "long-script",
            "actions",
            f"{len(rows)} actions are too many for one script: {MOST_ACTIONS} at most. Cut it up.",
        )
    actions: list[Action] = []
    for number, row in enumerate(rows, 1):
        action = action_from(row, build, f"action {number}")
        if actions and action.at_s < actions[-1].at_s:
            raise UnusableInput(
                "time-goes-back",
                f"action {number}",
                f"It is at {action.at_s:g} s, after one at {actions[-1].at_s:g} s. "
                "Put actions in the order of their times.",
            )
        _refuse_contradiction(actions, action, number)
        actions.append(action)
    last_s = actions[-1].at_s if actions else 0.0
    end_s = last_s if ends_s is None else _seconds(ends_s, "ends_s")
    if end_s < last_s:
        raise UnusableInput(
            "time-goes-back",
            "ends_s",
            f"The script ends at {end_s:g} s, before its last action at {last_s:g} s.",
        )
    return Script(tuple(actions), end_s)


def _refuse_contradiction(actions: Sequence[Action], action: Action, number: int) -> None:
    for before in reversed(actions):
        if before.at_s != action.at_s:
            return
        same = before.do == action.do and before.of == action.of
        if same and action.do in ("key", "switch", "value", "sender") and before.to != action.to:
            raise UnusableInput(
                "contradiction",
                f"action {number}",
                f"At {action.at_s:g} s {action.of or 'the key'} is to be {before.to} and "
                f"{action.to} at once. Keep one, or give the second a later time.",
            )


def action_from(row: Any, build: Build, where: str) -> Action:
    """An action of a plain row; raises UnusableInput."""
    if not isinstance(row, Mapping):
        raise UnusableInput("bad-action", where, "An action is an object with at_s and do.")
    at_s, do = _seconds(row.get("at_s"), where), row.get("do")
    if do not in DOES:
        raise UnusableInput(
            "unknown-action", where, f"“{do}” cannot be done. Known: {', '.join(DOES)}."
        )
    of, to = str(row.get("of") or ""), row.get("to")
    match do:
        case "key":
            _one_of(to, KEY_POSITIONS, where, "The key")
        case "switch":
            _check_switch(build, of, to, where)
        case "value":
            _one_of(of, tuple(VALUES), where, "A value")
            if to is not None:
                to = _figure(to, (0.0, MOST[of]), where)
        case "sender":
            part = _part(build, of, where)
            if part.kind != "sensor" or part.contacts is not None:
                raise _cannot(where, part, "is no sender")
            if to is not None:
                to = _figure(to, SENDER_OHM, where)
        case "pull":
            part = _part(build, of, where)
            if part.kind not in CAN_BE_PULLED:
                raise _cannot(where, part, "cannot be pulled; fuses, relays, lamps and plugs can")
        case "fit":
            part = _part(build, of, where)
            if to is not None:
                to = _fitting(part, to, where)
        case "reset":
            _part(build, of, where)
        case "lose" | "find":
            of = of or ""
            if not of:
                raise UnusableInput("bad-action", where, "Name the bus, module or box in “of”.")
        case "fault":
            fault = fault_from(row.get("fault"), where)
            problem = problem_of(fault, build)
            if problem:
                raise UnusableInput("bad-fault", where, problem)
            return Action(at_s, do, of or fault.id, fault=fault)
        case "meter":
            meter = meter_from(row.get("meter"), build, where)
            _one_of(of, METERS, where, "A meter")
            return Action(at_s, do, of, meter=meter)
    return Action(at_s, do, of, to)


def _check_switch(build: Build, of: str, to: Any, where: str) -> None:
    part = _part(build, of, where)
    if not is_switch(part) or part.contacts is None or part.kind == "key switch":
        raise _cannot(where, part, "has no positions to put it in")
    names = [row.name for row in part.contacts.positions]
    if to is not None and to not in names:
        raise UnusableInput(
            "unknown-position",
            where,
            f"“{part.name}” has no position “{to}”. It has {', '.join(names)}.",
        )


def _fitting(part: Part, to: Any, where: str) -> float:
    if part.kind != "fuse":
        raise _cannot(where, part, "is put back as it was; only a fuse can be another one")
    amps = _figure(to, (0.1, 1000.0), where)
    catalogue().fuse(part.catalogue or "", amps)
    return amps


def _part(build: Build, of: str, where: str) -> Part:
    if of not in build.parts:
        raise UnusableInput(
            "unknown-part", where, f"The build has no part “{of}”. Name one by its id in “of”."
        )
    return build.parts[of]


def _cannot(where: str, part: Part, why: str) -> UnusableInput:
    return UnusableInput("bad-action", where, f"“{part.name}” {why}.")


def _one_of(value: Any, known: Sequence[str], where: str, what: str) -> None:
    if value not in known:
        raise UnusableInput(
            "bad-action", where, f"{what} cannot be “{value}”. Known: {', '.join(known)}."
        )


def _seconds(value: Any, where: str) -> float:
    return _figure(value, (0.0, LONGEST_S), where, "The time")


def _figure(value: Any, within: tuple[float, float], where: str, what: str = "The figure") -> float:
    known = isinstance(value, int | float) and not isinstance(value, bool)
    if not known or not math.isfinite(value) or not within[0] <= value <= within[1]:
        raise UnusableInput(
            "bad-action", where, f"{what} is {value}, but must be {within[0]:g} to {within[1]:g}."
        )
    return float(value)


def as_rows(actions: Sequence[Action]) -> list[dict[str, Any]]:
    """The actions as plain rows, as ``script_from`` takes them."""
    rows = []
    for action in actions:
        row: dict[str, Any] = {"at_s": action.at_s, "do": action.do}
        if action.of:
            row["of"] = action.of
        if action.do in ("key", "switch", "value", "sender") or action.to is not None:
            row["to"] = action.to
        if action.fault is not None:
            row["fault"] = action.fault.as_row()
        if action.meter is not None:
            row["meter"] = action.meter.as_row()
        rows.append(row)
    return rows
