"""Conditions of module channels and box outputs: ``ignition and (coolant_c > 92 or fan_switch)``.

Names, numbers, comparisons, ``and``, ``or``, ``not`` and brackets. A condition is parsed and
checked, never run as code.
"""

import ast
import operator
import re
from collections.abc import Callable, Mapping
from functools import cache

from circuitry.errors import UnusableInput

MOST_CHARACTERS = 300
VALUES: Mapping[str, float] = {"engine_rpm": 0.0, "coolant_c": 20.0, "speed_kmh": 0.0}
"""What a sensor on the data bus may tell, and what it is while nobody says otherwise."""
COMPARISONS: Mapping[type[ast.cmpop], Callable[[float, float], bool]] = {
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
}
HELP = "Write names, numbers, > and <, and, or, not, and brackets: ignition and coolant_c > 92."
Literal = tuple[str, bool | float]
"""A name and what it must be: active or not, or a value that satisfies its comparison."""


@cache
def spoken(name: str) -> str:
    """A name of a part or pin as conditions write it: ``fan switch`` becomes ``fan_switch``."""
    return re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_")


def names_in(condition: str) -> tuple[str, ...]:
    """The names that a condition asks for, in order; raises UnusableInput when it is not one."""
    tree = _parsed(condition)
    return tuple(dict.fromkeys(n.id for n in ast.walk(tree) if isinstance(n, ast.Name)))


def holds(condition: str, known: Mapping[str, bool | float]) -> bool:
    """Whether a condition is true; names that are not known are not active."""
    return bool(_value(_parsed(condition), known)) if condition else False


def ways_to_hold(condition: str) -> tuple[tuple[Literal, ...], ...]:
    """The sets of literals that each make a condition true (its disjunctive normal form)."""
    return _alternatives(_parsed(condition), True) if condition else ()


@cache
def _parsed(condition: str) -> ast.expr:
    if len(condition) > MOST_CHARACTERS:
        raise _refused(condition, f"is longer than {MOST_CHARACTERS} characters")
    try:
        tree = ast.parse(condition, mode="eval").body
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise _refused(condition, "cannot be read") from None
    _check(tree, condition)
    return tree


def _check(node: ast.expr, condition: str) -> None:
    match node:
        case ast.BoolOp(values=values):
            for value in values:
                _check(value, condition)
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            _check(operand, condition)
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[ast.Constant(value=limit)]):
            known = type(op) in COMPARISONS and isinstance(limit, int | float)
            if not known or isinstance(limit, bool):
                raise _refused(condition, "compares in a way that is not known")
            if name not in VALUES:
                raise _refused(condition, f"compares “{name}”; values are {', '.join(VALUES)}")
        case ast.Name(id=name):
            if name in VALUES:
                raise _refused(condition, f"must compare “{name}” with a number")
        case _:
            raise _refused(condition, "holds something that is not known")


def _refused(condition: str, why: str) -> UnusableInput:
    shown = condition if len(condition) < 80 else condition[:77] + "…"
    return UnusableInput("bad-condition", shown, f"The condition “{shown}” {why}. {HELP}")


def _value(node: ast.expr, known: Mapping[str, bool | float]) -> bool:
    match node:
        case ast.BoolOp(op=op, values=values):
            every = isinstance(op, ast.And)
            return (all if every else any)(_value(value, known) for value in values)
        case ast.UnaryOp(operand=operand):
            return not _value(operand, known)
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[ast.Constant(value=limit)]):
            return COMPARISONS[type(op)](float(known.get(name, VALUES[name])), _number(limit))
        case ast.Name(id=name):
            return bool(known.get(name, False))
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
        case ast.Compare(left=ast.Name(id=name), ops=[op], comparators=[ast.Constant(value=limit)]):
            above = isinstance(op, ast.Gt | ast.GtE) == wanted
            return (((name, _number(limit) + (1.0 if above else -1.0)),),)
        case ast.Name(id=name):
            return (((name, wanted),),)
    raise TypeError(f"not part of a condition: {ast.dump(node)}")


def _number(value: object) -> float:
    assert isinstance(value, int | float)
    return float(value)


def thresholds(condition: str, value: str) -> tuple[float, ...]:
    """The figures that a condition compares a value with."""
    return tuple(
        _number(node.comparators[0].value)
        for node in ast.walk(_parsed(condition))
        if isinstance(node, ast.Compare)
        and isinstance(node.left, ast.Name)
        and node.left.id == value
        and isinstance(node.comparators[0], ast.Constant)
    )
