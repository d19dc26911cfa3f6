"""Documents and stored changes of older versions, brought up to the present one.

A version is a number in the document and beside every stored change. For each there is one step to
the next, which works on one thing of one collection, so that documents, stored things and the
changes of a history all take it. A step is never altered once a later version is out.

=======  =================================================================================
version  what was different
=======  =================================================================================
0        changes in a database of before its second migration: a wire that did not say its
         extra length had 0.3 m; documents of that time say version 1
1        pins said in free words what they do; edits could store what the schema refuses:
         lengths, figures and texts beyond their range, control characters
2        drop was judged by percent of class; duty was continuous, intermittent, momentary or
         flashing
3        the present one
=======  =================================================================================
"""

import math
import re
from collections.abc import Callable, Mapping
from typing import Any, TypeGuard

from circuitry.catalogue import catalogue
from circuitry.design.model import PIN_FUNCTIONS, VERSION

Thing = dict[str, Any]
CONTROL = re.compile("[\x00-\x1f\ud800-\udfff]")
CONTROL_BUT_LINES = re.compile("[\x00-\x08\x0b-\x1f\ud800-\udfff]")
PIN_FUNCTIONS_OF_1 = {
    "permanent feed": "supply",
    "switched feed": "input",
    "feed": "supply",
    "data high": "bus",
    "data low": "bus",
}
EXTRA_M_OF_0 = 0.3
REACH_OF_1: Mapping[str, tuple[float, float]] = {
    "ambient_c": (-40, 150),
    "x_m": (-20, 20),
    "y_m": (-20, 20),
    "length_m": (0.01, 100),
    "extra_m": (0, 100),
    "fixings_mm": (20, 2000),
    "hole_mm": (0.1, 200),
    "limit_a": (0.001, 1000),
    "fuse_a": (0.001, 1000),
}
"""Where each number had to lie in version 2, when step 1 was written."""
LONGEST_OF_1 = {"note": 500, "when": 300, "name": 80, "label": 80, "colour": 80, "function": 80}
MOST_FIGURE = 1e6
DUTY_OF_2 = {
    "continuous": "for ever",
    "intermittent": "minutes",
    "momentary": "seconds",
}


def upgraded(collection: str, thing: Thing, version: int) -> Thing:
    """A thing as a later version writes it; ``collection`` is that of the document."""
    for number in range(version, VERSION):
        thing = STEPS[number](collection, thing)
    return thing


def upgraded_document(document: Mapping[str, Any], version: int) -> Thing:
    """A whole document as the present version writes it; what is no list of things stays."""
    after = dict(document)
    for name, value in document.items():
        if isinstance(value, list):
            after[name] = [
                upgraded(name, row, version) if isinstance(row, dict) else row for row in value
            ]
        elif isinstance(value, str):
            after[name] = CONTROL.sub(" ", value)
    if version == 1:
        after = _one_run_between_two_places(after)
    if version <= 2:
        after = _from_2("build", {"policy": {}, **after})
    return {**after, "version": VERSION}


def _from_1(collection: str, thing: Thing) -> Thing:
    after = {name: _fitted(name, value) for name, value in thing.items()}
    if isinstance(after.get("pins"), list):
        after["pins"] = [_pin_of_1(pin) for pin in after["pins"]]
    if isinstance(after.get("figures"), dict):
        after["figures"] = {
            name: value for name, value in after["figures"].items() if _is_figure(name, value)
        }
    if after.get("kind") == "flasher" and after.get("catalogue") not in catalogue().flashers:
        after["catalogue"] = next(iter(catalogue().flashers))
    return after


def _fitted(name: str, value: Any) -> Any:
    if isinstance(value, str):
        kept = CONTROL_BUT_LINES if name == "note" else CONTROL
        return kept.sub(" ", value)[: LONGEST_OF_1.get(name)]
    if isinstance(value, list):
        return [_fitted(name, item) for item in value]
    if isinstance(value, dict):
        return {own: _fitted(own, item) for own, item in value.items()}
    if isinstance(value, int | float) and not isinstance(value, bool) and name in REACH_OF_1:
        least, most = REACH_OF_1[name]
        return min(max(value, least), most) if math.isfinite(value) else least
    return value


def _pin_of_1(pin: Any) -> Any:
    if not isinstance(pin, dict) or not isinstance(pin.get("function", ""), str):
        return pin
    function = PIN_FUNCTIONS_OF_1.get(pin.get("function", ""), pin.get("function", ""))
    return {**pin, "function": function if function in PIN_FUNCTIONS else ""}


def _is_figure(name: str, value: Any) -> bool:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return True
    return bool(abs(value) <= (1 if name == "state_of_charge" else MOST_FIGURE))


def _one_run_between_two_places(document: Thing) -> Thing:
    """The first of the runs that join the same two places; wires led along another take it."""
    runs, wires = document.get("runs"), document.get("wires")
    if not (_are_things(runs) and _are_things(wires)):
        return document
    kept: dict[frozenset[Any], Any] = {}
    instead: dict[Any, Any] = {}
    for run in runs:
        if not isinstance(run.get("id"), str):
            return document
        ends = frozenset((str(run.get("from_place")), str(run.get("to_place"))))
        instead[run.get("id")] = kept.setdefault(ends, run).get("id")
    led = [
        {**wire, "way": [instead.get(str(run), run) for run in wire["way"]]}
        if isinstance(wire.get("way"), list)
        else wire
        for wire in wires
    ]
    return {**document, "runs": list(kept.values()), "wires": led}


def _are_things(rows: Any) -> TypeGuard[list[Thing]]:
    return isinstance(rows, list) and all(isinstance(row, dict) for row in rows)


def _from_0(collection: str, thing: Thing) -> Thing:
    return {"extra_m": EXTRA_M_OF_0, **thing} if collection == "wires" else thing


def _from_2(collection: str, thing: Thing) -> Thing:
    """A build that stands keeps its school of drop."""
    after = dict(thing)
    if isinstance(after.get("policy"), dict):
        after["policy"] = {"drop_school": "percent by class", **after["policy"]}
    figures = after.get("figures")
    if isinstance(figures, dict) and isinstance(figures.get("duty"), str):
        after["figures"] = {**figures, "duty": DUTY_OF_2.get(figures["duty"], figures["duty"])}
    return after


STEPS: Mapping[int, Callable[[str, Thing], Thing]] = {0: _from_0, 1: _from_1, 2: _from_2}
