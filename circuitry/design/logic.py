"""Conditions of module channels and box outputs: ``ignition and (coolant_c > 92 or fan_switch)``.

Names, numbers, comparisons, ``and``, ``or``, ``not`` and brackets; ``light_switch is head`` for a
position; ``coolant_c > 92 off below 87`` for a value that has to come back some way;
``flash(turn_left)`` and ``longer(door, 20)`` for what goes by time; ``latch(start_button,
stop_button)`` for what stays on after its first until its second. A condition is parsed and
checked, never run as code. Where time matters to it, what is told here is where it settles: with
the flasher lit, the longer time not yet over, a value that came from below, and nothing latched.
"""

import ast
import operator
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import product
from typing import Any

import numpy as np

from circuitry.errors import UnusableInput

MOST_CHARACTERS = 300
VALUES: Mapping[str, float] = {
    "engine_rpm": 0.0,
    "coolant_c": 20.0,
    "speed_kmh": 0.0,
    "daylight_percent": 0.0,
}
"""What a sensor on the data bus may tell, and what it is while nobody says otherwise."""
UNITS = {"engine_rpm": "rpm", "coolant_c": "°C", "speed_kmh": "km/h", "daylight_percent": "%"}
SPOKEN_VALUES = {
    "engine_rpm": "engine speed",
    "coolant_c": "coolant temperature",
    "speed_kmh": "road speed",
    "daylight_percent": "daylight",
}
MOST: Mapping[str, float] = {
    "engine_rpm": 7000.0,
    "coolant_c": 130.0,
    "speed_kmh": 200.0,
    "daylight_percent": 100.0,
}
"""What a value is at most, for a slider."""
EXAMPLES = {
    "engine_rpm": "engine_rpm > 0",
    "coolant_c": "coolant_c > 92 off below 87",
    "speed_kmh": "speed_kmh > 10",
    "daylight_percent": "daylight_percent < 20",
}
"""How a value is usually asked for, to be changed."""
BUS_LOST = "bus_lost"
"""True in a part that should hear a data bus and does not."""
LIT = "flash()"
"""The name under which a flasher's phase is known."""
COMPARISONS: Mapping[type[ast.cmpop], Callable[[Any, float], Any]] = {
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
}
SAID = {ast.Gt: "above", ast.GtE: "at least", ast.Lt: "below", ast.LtE: "at most"}
VOLTS_BESIDE = 0.05
"""How far beyond a threshold an analogue input is looked for."""
FLASHES_PER_MIN = 90
"""Typical; the law of most places asks for 60 to 120."""
LONGEST_S = 3600.0
BACK = re.compile(
    r"\b([a-z_]+)\s*(>=?|<=?)\s*(-?[\d.]+)\s+off\s+(below|above)\s+(-?[\d.]+)", re.IGNORECASE
)
HELP = (
    "Write names, numbers, > and <, and, or, not, and brackets: ignition and coolant_c > 92; "
    "light_switch is head; coolant_c > 92 off below 87; flash(turn_left); longer(door, 20); "
    "latch(start, stop)."
)


@dataclass(frozen=True)
class At:
    """A position that something must be in, or must not."""

    position: str
    wanted: bool = True


@dataclass(frozen=True)
class Beyond:
    """Volts that an analogue input must be above, or below."""

    limit_v: float
    above: bool

    def holds(self, volts: float) -> bool:
        """Whether these volts do."""
        return volts > self.limit_v if self.above else volts < self.limit_v


Wanted = bool | float | At | Beyond
Literal = tuple[str, Wanted]
"""A name and what it must be: active or not, in a position or not, a value that satisfies its
comparison, or beyond some volts."""


class Memory:
    """What conditions remember while time passes: what has come on and not gone back, and until
    when what stays on longer does."""

    def __init__(self) -> None:
        self.now_s = 0.0
        self.latched: dict[str, bool] = {}
        self.until_s: dict[str, float] = {}

    def copy(self) -> "Memory":
        """Another that remembers the same."""
        other = Memory()
        other.now_s = self.now_s
        other.latched, other.until_s = dict(self.latched), dict(self.until_s)
        return other

    def back(self, what: str, comes: Any, stays: Any) -> Any:
        """Whether something is on that comes on at one figure and stays on down to another."""
        on = bool(np.all(comes)) or (self.latched.get(what, False) and bool(np.all(stays)))
        self.latched[what] = on
        return on

    def latch(self, what: str, comes: Any, goes: Any) -> Any:
        """Whether something is on that one thing turns on and another off; off wins."""
        on = not np.all(goes) and (bool(np.all(comes)) or self.latched.get(what, False))
        self.latched[what] = on
        return on

    def longer(self, what: str, inner: Any, seconds: float) -> Any:
        """Whether something is on, or was at most so many seconds ago."""
        if np.all(inner):
            self.until_s[what] = self.now_s + seconds
        return self.now_s < self.until_s.get(what, -1.0)


Known = Mapping[str, Any]
"""By name: whether it is active, or its value; ``light_switch is head`` for a position. Each may
be an array over states."""


@lru_cache(maxsize=4096)
def spoken(name: str) -> str:
    """A name of a part or pin as conditions write it: ``fan switch`` becomes ``fan_switch``."""
    return re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")


def names_in(condition: str) -> tuple[str, ...]:
    """The names that a condition asks for, in order; raises UnusableInput when it is not one."""
    return tuple(dict.fromkeys(name for name, _ in _asked(_parsed(condition))))


def positions_in(condition: str) -> tuple[tuple[str, str], ...]:
    """The names that a condition asks for a position, with that position."""
    asked = _asked(_parsed(condition))
    return tuple(dict.fromkeys((name, at) for name, at in asked if at is not None))


def holds(condition: str, known: Known, memory: Memory | None = None, owner: str = "") -> Any:
    """Whether a condition is true; names that are not known are not active. Where what is known
    are arrays over states, the answer is one too. With a memory, which keeps what it remembers by
    ``owner``, time passes: without one the answer is where it settles."""
    if not condition:
        return False
    return _value(_parsed(condition), known, (memory, owner) if memory else None)


def flashes(condition: str) -> bool:
    """Whether something in a condition goes by the flasher's phase."""
    return any(_is_call(node, "flash") for node in ast.walk(_parsed(condition)))


def ways_to_hold(condition: str) -> tuple[tuple[Literal, ...], ...]:
    """The sets of literals that each make a condition true (its disjunctive normal form)."""
    return _alternatives(_parsed(condition), True) if condition else ()


def thresholds(condition: str, value: str) -> tuple[float, ...]:
    """The figures that a condition compares a value with."""
    return tuple(
        _number(node.comparators[0])
        for node in ast.walk(_parsed(condition))
        if isinstance(node, ast.Compare) and _name(node.left) == value and not _is_position(node)
    )


def sentence(condition: str, said: Mapping[str, str]) -> str:
    """A condition as people say it, with each name as ``said``: ``while light switch is at head
    and front fog switch is off``."""
    return f"while {_say(_parsed(condition), said, 0)}" if condition else "never"


def compared_in(condition: str) -> tuple[str, ...]:
    """The names that a condition compares with a figure."""
    compared = (
        _name(node.left)
        for node in ast.walk(_parsed(condition))
        if isinstance(node, ast.Compare) and not _is_position(node)
    )
    return tuple(dict.fromkeys(compared))


def points_beside(condition: str, name: str) -> list[float]:
    """A figure below the least that a condition compares a name with, and one above each."""
    step = 1.0 if name in VALUES else VOLTS_BESIDE
    limits = sorted({*([VALUES[name]] if name in VALUES else []), *thresholds(condition, name)})
    return sorted({limits[0] - step, *(limit + step for limit in limits)})


def always_or_never(condition: str, positions: Mapping[str, Sequence[str]]) -> str:
    """``never`` where nothing makes a condition true, ``always`` where nothing makes it false, else
    empty; ``positions`` are those of names that have more than on and off. Every combination of
    its names is tried where there are no more than some thousands."""
    axes: list[list[dict[str, Any]]] = []
    for name in names_in(condition):
        if name in VALUES or thresholds(condition, name):
            limits = {*thresholds(condition, name), *points_beside(condition, name)}
            axes.append([{name: point} for point in sorted(limits)])
        elif name in positions:
            rest = positions[name][0]
            axes.append([{name: at != rest, f"{name} is {at}": True} for at in positions[name]])
        else:
            axes.append([{name: False}, {name: True}])
    if np.prod([float(len(axis)) for axis in axes]) > MOST_COMBINED:
        return ""
    found = {
        bool(holds(condition, {name: at for one in row for name, at in one.items()}))
        for row in product(*axes)
    }
    return "" if len(found) > 1 else "always" if found == {True} else "never"


MOST_COMBINED = 20_000


@lru_cache(maxsize=4096)
def _parsed(condition: str) -> ast.expr:
    if len(condition) > MOST_CHARACTERS:
        raise _refused(condition, f"is longer than {MOST_CHARACTERS} characters")
    try:
        tree = ast.parse(BACK.sub(r"back(\1 \2 \3, \5)", condition.strip()), mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise _refused(condition, "cannot be read") from None
    for back in BACK.finditer(condition):
        rises, falls = back[2].startswith(">"), back[4].lower() == "below"
        if rises != falls or (float(back[3]) <= float(back[5])) == rises:
            raise _refused(condition, "turns back on the wrong side of where it comes on")
    _check(tree, condition)
    return tree


def _check(node: ast.expr, condition: str) -> None:
    match node:
        case ast.BoolOp(values=values):
            for value in values:
                _check(value, condition)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            _check(operand, condition)
        case ast.Compare(left=ast.Name(), ops=[ast.Is()], comparators=[at]):
            if not isinstance(at, ast.Name | ast.Constant) or _name(node.left) in VALUES:
                raise _refused(condition, "asks for a position that is none")
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[limit]):
            if type(op) not in COMPARISONS or not _is_number(limit):
                raise _refused(condition, "compares in a way that is not known")
        case ast.Name(id=name):
            if name in VALUES:
                raise _refused(condition, f"must compare “{name}” with a number")
        case ast.Call(func=ast.Name(id="flash"), args=[inner], keywords=[]):
            _check(inner, condition)
        case ast.Call(func=ast.Name(id="longer"), args=[inner, seconds], keywords=[]):
            if not _is_number(seconds) or not 0 < _number(seconds) <= LONGEST_S:
                raise _refused(condition, f"stays on for no time between 0 and {LONGEST_S:g} s")
            _check(inner, condition)
        case ast.Call(func=ast.Name(id="latch"), args=[comes, goes], keywords=[]):
            _check(comes, condition)
            _check(goes, condition)
        case ast.Call(func=ast.Name(id="back"), args=[inner, limit], keywords=[]):
            if not isinstance(inner, ast.Compare) or not _is_number(limit):
                raise _refused(condition, "holds something that is not known")
            _check(inner, condition)
        case _:
            raise _refused(condition, "holds something that is not known")


def _refused(condition: str, why: str) -> UnusableInput:
    shown = condition if len(condition) < 80 else condition[:77] + "…"
    return UnusableInput("bad-condition", shown, f"The condition “{shown}” {why}. {HELP}")


def _asked(node: ast.expr) -> Iterator[tuple[str, str | None]]:
    """The names of a condition, with the position that one is asked for."""
    match node:
        case ast.BoolOp(values=values):
            for value in values:
                yield from _asked(value)
        case ast.UnaryOp(operand=operand):
            yield from _asked(operand)
        case ast.Call(args=arguments):
            for argument in arguments if _is_call(node, "latch") else arguments[:1]:
                yield from _asked(argument)
        case ast.Compare(left=ast.Name(id=name)):
            yield name, _position(node) if _is_position(node) else None
        case ast.Name(id=name):
            yield name, None


def _value(node: ast.expr, known: Known, kept: tuple[Memory, str] | None) -> Any:
    match node:
        case ast.BoolOp(op=op, values=values):
            join = np.logical_and if isinstance(op, ast.And) else np.logical_or
            found = _value(values[0], known, kept)
            for value in values[1:]:
                found = join(found, _value(value, known, kept))
            return found
        case ast.UnaryOp(operand=operand):
            return np.logical_not(_value(operand, known, kept))
        case ast.Compare(left=ast.Name(id=name)) if _is_position(node):
            return known.get(f"{name} is {_position(node)}", False)
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[limit]):
            value = known.get(name, VALUES.get(name, np.nan))
            return COMPARISONS[type(op)](value, _number(limit))
        case ast.Call(func=ast.Name(id="flash"), args=[inner]):
            return np.logical_and(_value(inner, known, kept), known.get(LIT, True))
        case ast.Call(func=ast.Name(id="latch"), args=[comes, goes]):
            on, off = _value(comes, known, kept), _value(goes, known, kept)
            if kept is None:
                return np.logical_and(on, np.logical_not(off))
            return kept[0].latch(f"{kept[1]}: {_text(node)}", on, off)
        case ast.Call(args=[inner, _]) if kept is None:
            return _value(inner, known, kept)
        case ast.Call(func=ast.Name(id="longer"), args=[inner, seconds]) if kept:
            on = _value(inner, known, kept)
            return kept[0].longer(f"{kept[1]}: {_text(node)}", on, _number(seconds))
        case ast.Call(args=[ast.Compare(ops=[op]) as inner, limit]) if kept:
            value = known.get(_name(inner.left), VALUES.get(_name(inner.left), np.nan))
            stays = COMPARISONS[type(op)](value, _number(limit))
            return kept[0].back(f"{kept[1]}: {_text(node)}", _value(inner, known, kept), stays)
        case ast.Name(id=name):
            return known.get(name, False)
    raise TypeError(f"not part of a condition: {ast.dump(node)}")


def _alternatives(node: ast.expr, wanted: bool) -> tuple[tuple[Literal, ...], ...]:
    match node:
        case ast.BoolOp(op=op, values=values):
            sets = [_alternatives(value, wanted) for value in values]
            if isinstance(op, ast.And) != wanted:
                return tuple(one for alternatives in sets for one in alternatives)
            together: tuple[tuple[Literal, ...], ...] = ((),)
            for alternatives in sets:
                together = tuple((*done, *more) for done in together for more in alternatives)[:64]
            return together
        case ast.UnaryOp(operand=operand):
            return _alternatives(operand, not wanted)
        case ast.Compare(left=ast.Name(id=name)) if _is_position(node):
            return (((name, At(_position(node), wanted)),),)
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[limit]):
            above = isinstance(op, ast.Gt | ast.GtE) == wanted
            if name not in VALUES:
                return (((name, Beyond(_number(limit), above)),),)
            return (((name, _number(limit) + (1.0 if above else -1.0)),),)
        case ast.Call(func=ast.Name(id="latch"), args=[comes, goes]):
            on = ast.BoolOp(ast.And(), [comes, ast.UnaryOp(ast.Not(), goes)])
            return _alternatives(on, wanted)
        case ast.Call(args=[inner, *_]):
            return _alternatives(inner, wanted)
        case ast.Name(id=name):
            return (((name, wanted),),)
    raise TypeError(f"not part of a condition: {ast.dump(node)}")


def _say(node: ast.expr, said: Mapping[str, str], depth: int) -> str:
    match node:
        case ast.BoolOp(op=op, values=values):
            word = " and " if isinstance(op, ast.And) else " or "
            text = word.join(_say(value, said, depth + 1) for value in values)
            return f"({text})" if depth else text
        case ast.UnaryOp(operand=operand):
            if isinstance(operand, ast.Name) and operand.id == BUS_LOST:
                return "the data bus works"
            if isinstance(operand, ast.Name):
                return f"{_called(operand.id, said)} is off"
            if isinstance(operand, ast.Compare) and _is_position(operand):
                return f"{_called(_name(operand.left), said)} is not at {_position(operand)}"
            return f"not {_say(operand, said, depth + 1)}"
        case ast.Compare(left=ast.Name(id=name)) if _is_position(node):
            return f"{_called(name, said)} is at {_position(node)}"
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[limit]):
            figure = f"{_number(limit):g} {UNITS.get(name, 'V')}"
            return f"{SPOKEN_VALUES.get(name) or _called(name, said)} is {SAID[type(op)]} {figure}"
        case ast.Call(func=ast.Name(id="flash"), args=[inner]):
            return f"{_say(inner, said, depth)}, flashing"
        case ast.Call(func=ast.Name(id="longer"), args=[inner, seconds]):
            return f"{_say(inner, said, depth + 1)}, and {_number(seconds):g} s longer"
        case ast.Call(func=ast.Name(id="latch"), args=[comes, goes]):
            text = _say(comes, said, depth + 1)
            return f"{text} or was, until {_say(goes, said, depth + 1)}"
        case ast.Call(args=[ast.Compare(left=ast.Name(id=name), ops=[op]) as inner, limit]):
            word = "below" if isinstance(op, ast.Gt | ast.GtE) else "above"
            text = _say(inner, said, depth)
            return f"{text} until it is {word} {_number(limit):g} {UNITS.get(name, 'V')}"
        case ast.Name(id=name):
            return "the data bus is lost" if name == BUS_LOST else f"{_called(name, said)} is on"
    raise TypeError(f"not part of a condition: {ast.dump(node)}")


@lru_cache(maxsize=4096)
def _text(node: ast.expr) -> str:
    return ast.unparse(node)


def _called(name: str, said: Mapping[str, str]) -> str:
    return said.get(name, name.replace("_", " "))


def _is_call(node: ast.AST, name: str) -> bool:
    return isinstance(node, ast.Call) and _name(node.func) == name


def _is_position(node: ast.Compare) -> bool:
    return isinstance(node.ops[0], ast.Is)


def _position(node: ast.Compare) -> str:
    at = node.comparators[0]
    return spoken(at.id) if isinstance(at, ast.Name) else str(getattr(at, "value", ""))


def _name(node: ast.AST) -> str:
    return node.id if isinstance(node, ast.Name) else ""


def _is_number(node: ast.expr) -> bool:
    try:
        _number(node)
    except TypeError:
        return False
    return True


def _number(node: ast.expr) -> float:
    match node:
        case ast.Constant(value=bool()):
            raise TypeError("no number")
        case ast.Constant(value=int() | float() as value):
            return float(value)
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_number(operand)
    raise TypeError("no number")
