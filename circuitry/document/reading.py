"""The open JSON document of a build: reading with a clear refusal, and writing back exactly."""

import json
import math
import re
import types
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import MISSING, fields, is_dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any, TypeVar, cast, get_args, get_origin, get_type_hints

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError, best_match
from jsonschema.validators import extend

from circuitry.design.model import (
    FORMAT,
    VERSION,
    Acceptance,
    Body,
    Build,
    Circuit,
    FoundCircuit,
    HarnessCircuit,
    Part,
    PinPair,
    Place,
    Policy,
    Reel,
    Run,
    Scenario,
    Terminal,
    Wire,
)
from circuitry.document.checks import check
from circuitry.document.versions import upgraded_document
from circuitry.errors import UnusableInput

MAX_BYTES = 8_000_000
MOST_NESTED = 16
LARGEST_INTEGER = 2**53
SCHEMA_FILE = Path(__file__).parent / "build-3.schema.json"
COLLECTIONS: Mapping[str, type[Any]] = {
    "places": Place,
    "runs": Run,
    "parts": Part,
    "wires": Wire,
    "circuits": Circuit,
    "found_circuits": FoundCircuit,
    "pin_pairs": PinPair,
    "harness_circuits": HarnessCircuit,
    "acceptances": Acceptance,
    "scenarios": Scenario,
    "reels": Reel,
}
LONE_SURROGATE = re.compile("[\ud800-\udfff]")
LEFT_OUT_WHEN_EMPTY = (
    "found_circuits",
    "pin_pairs",
    "harness_circuits",
    "acceptances",
    "scenarios",
    "reels",
)
Thing = TypeVar("Thing")


def read(text: str | bytes) -> Build:
    """The build in a JSON document; raises UnusableInput that names the place and the way out."""
    return from_document(read_json(text))


def read_json(text: str | bytes, most_bytes: int = MAX_BYTES) -> object:
    """The JSON value in a text of bounded size; raises UnusableInput with line and column."""
    if len(text) > most_bytes:
        raise too_large(len(text))
    try:
        value: object = json.loads(text, parse_constant=_refuse_constant)
    except json.JSONDecodeError as problem:
        raise UnusableInput(
            "not-json",
            f"line {problem.lineno}, column {problem.colno}",
            f"This is not JSON: line {problem.lineno}, column {problem.colno}: {problem.msg}.",
        ) from None
    except UnicodeDecodeError:
        raise UnusableInput("not-json", "file", "This is not JSON in UTF-8.") from None
    except RecursionError:
        raise _too_deep() from None
    except ValueError:
        raise UnusableInput(
            "not-json", "file", "A number in this file has too many digits. Shorten it."
        ) from None
    hold_plain(value)
    return value


def hold_plain(value: object, where: str = "file", deep: int = 0) -> None:
    """Raise UnusableInput for what JSON lets through and no document can keep.

    That is: numbers that are not finite or beyond LARGEST_INTEGER, halves of characters, and more
    than MOST_NESTED levels.
    """
    if deep > MOST_NESTED:
        raise _too_deep()
    if isinstance(value, dict):
        for name, item in value.items():
            hold_plain(name, where, deep)
            hold_plain(item, name, deep + 1)
    elif isinstance(value, list | tuple):
        for item in value:
            hold_plain(item, where, deep + 1)
    elif isinstance(value, str):
        if not value.isascii() and LONE_SURROGATE.search(value):
            raise UnusableInput(
                "bad-text", where[:80], f"{shown(where)} holds half a character. Type it again."
            )
    elif isinstance(value, float) and not math.isfinite(value):
        raise UnusableInput(
            "bad-number", where, f"{where}: a number must be finite, and not as large as this."
        )
    elif isinstance(value, int) and abs(value) > LARGEST_INTEGER:
        raise UnusableInput(
            "bad-number",
            where,
            f"{where}: a number has at most {len(str(LARGEST_INTEGER))} digits.",
        )


def _too_deep() -> UnusableInput:
    return UnusableInput(
        "not-json",
        "file",
        f"This JSON is nested too deeply: at most {MOST_NESTED} levels are read.",
    )


def too_large(size_bytes: int) -> UnusableInput:
    """The refusal of a document beyond MAX_BYTES."""
    return UnusableInput(
        "too-large",
        "file",
        f"The file has {size_bytes / 1e6:.1f} MB; a build has at most {MAX_BYTES / 1e6:g} MB. "
        "Choose a build exported from here.",
    )


def from_document(document: object) -> Build:
    """The build in a parsed document, checked; raises UnusableInput."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise UnusableInput(
            "wrong-format", "format", f"This is not a build: “format” must be “{FORMAT}”."
        )
    version = document.get("version")
    if type(version) is not int or not 1 <= version <= VERSION:
        raise UnusableInput(
            "wrong-version",
            "version",
            f"This build is of version {shown(version)}; this program reads versions 1 to "
            f"{VERSION}. Open it with the program that wrote it, or a later one.",
        )
    if version < VERSION:
        document = upgraded_document(document, version)
    validate(document, "#")
    build = Build(
        name=document["name"],
        body_conducts=document["body_conducts"],
        policy=read_thing(Policy, document.get("policy", {})),
        body=read_thing(Body, document.get("body", {})),
        harness_from=document.get("harness_from"),
        **{name: _collection(document, name) for name in COLLECTIONS},
    )
    check(build)
    return build


def to_document(build: Build) -> dict[str, Any]:
    """The document of a build; what is at its default is left out."""
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "name": build.name,
        "body_conducts": build.body_conducts,
        "policy": write_thing(build.policy),
        "body": write_thing(build.body),
        "harness_from": build.harness_from,
        **{
            name: [write_thing(thing) for thing in getattr(build, name).values()]
            for name in COLLECTIONS
        },
    }
    optional = ("body", "harness_from", *LEFT_OUT_WHEN_EMPTY)
    return {name: value for name, value in document.items() if value or name not in optional}


def write(build: Build) -> str:
    """The document as text, one thing a line where it is short, ending in a newline."""
    return json.dumps(to_document(build), ensure_ascii=False, indent=1) + "\n"


def hold(build: Build, before: Build | None = None) -> None:
    """Raise UnusableInput unless the build can be written as a document and read again.

    ``before`` is a build of which that is known already: only what differs from it is looked at.
    """
    own = {
        "policy": build.policy,
        "body": build.body,
    }
    for name, thing in own.items():
        if before is None or getattr(before, name) is not thing:
            _hold_thing(thing, f"#/$defs/{name}")
    for name, value in (("name", build.name), ("optional_id", build.harness_from)):
        hold_plain(value, name)
        validate(value, f"#/$defs/{name}")
    for name in COLLECTIONS:
        things: Mapping[str, Any] = getattr(build, name)
        known: Mapping[str, Any] = getattr(before, name) if before else {}
        most = schema()["properties"][name]["maxItems"]
        if len(things) > most:
            raise UnusableInput(
                "too-many", name, f"A build has at most {most} {name.replace('_', ' ')}."
            )
        for identity, thing in things.items():
            if known.get(identity) is not thing:
                _hold_thing(thing, f"#/$defs/{name.removesuffix('s')}")
    check(build)


def _hold_thing(thing: Any, definition: str) -> None:
    row = write_thing(thing)
    hold_plain(row)
    validate(row, definition)


def with_collection(build: Build, name: str, things: Mapping[str, Any]) -> Build:
    """The build with one of its collections replaced."""
    fields_changed: dict[str, Any] = {name: things}
    return replace(build, **fields_changed)


def validate(value: object, definition: str) -> None:
    """Check a value against the schema, whole (``#``) or one definition (``#/$defs/part``)."""
    error = best_match(_validator(definition).iter_errors(value))
    if error is not None:
        raise schema_problem(value, error)


@cache
def schema() -> dict[str, Any]:
    """The published schema."""
    return cast(dict[str, Any], json.loads(SCHEMA_FILE.read_text(encoding="utf-8")))


def _matches(
    validator: Any, pattern: str, instance: object, _schema: object
) -> Iterator[ValidationError]:
    """Hold a text to a pattern as the schema's dialect means it: ``$`` is the end, and nothing
    may follow it, not even the line feed that Python would allow."""
    if isinstance(instance, str) and not re.search(re.sub(r"\$$", r"\\Z", pattern), instance):
        yield ValidationError(f"{shown(instance)} does not match {pattern}")


Validator: Any = extend(Draft202012Validator, {"pattern": _matches})  # type: ignore[no-untyped-call]
"""Checks values against a schema of the house."""


@cache
def _validator(definition: str) -> Any:
    if definition == "#":
        return Validator(schema())
    return Validator({"$ref": definition, "$defs": schema()["$defs"]})


def schema_problem(value: object, error: ValidationError) -> UnusableInput:
    """What a schema error means for the user: the thing, the field, found and expected."""
    return bad_field(value, list(error.absolute_path), _schema_sentence(error))


def bad_field(
    value: Any, path: Sequence[str | int], said: str, whole: str = "document"
) -> UnusableInput:
    """That what stands at a path of a JSON value is wrong, by the name of the thing it is in."""
    named = ""
    for step in path:
        if isinstance(value, dict):
            value = value.get(step)
        else:
            value = value[step] if isinstance(value, list) and isinstance(step, int) else None
        if isinstance(value, dict):
            named = str(value.get("label") or value.get("name") or value.get("id") or named)
    field = str(path[-1]) if path else ""
    who = f"{named}: {field}" if named and field else named or field or whole
    where = "/".join(str(step) for step in path)
    return UnusableInput("bad-field", where or whole, f"{who}: {said}")


def _schema_sentence(error: ValidationError) -> str:
    found = shown(error.instance)
    expected: Any = error.validator_value
    sentences = {
        "minimum": f"is {found}, but must be at least {expected}.",
        "maximum": f"is {found}, but must be at most {expected}.",
        "exclusiveMinimum": f"is {found}, but must be more than {expected}.",
        "uniqueItems": "names something twice.",
        "enum": f"is {found}, but must be one of {', '.join(map(str, expected))}."
        if error.validator == "enum"
        else "",
        "type": f"is {found}, but must be of type {expected}.",
        "pattern": f"is {found}, which is not written as expected ({expected}).",
        "maxItems": f"has more than {expected} entries.",
        "maxLength": f"is longer than {expected} characters.",
        "minLength": "is empty: fill it in.",
    }
    return sentences.get(str(error.validator), error.message[:300].rstrip(".") + ".")


def shown(value: object) -> str:
    """A value as an error says it."""
    text = f"“{value}”" if isinstance(value, str) else json.dumps(value, default=str)
    return text if len(text) < 80 else text[:77] + "…"


def _refuse_constant(name: str) -> None:
    raise UnusableInput("not-json", "file", f"{name} is not a number that a build can hold.")


def _collection(document: Mapping[str, Any], name: str) -> Any:
    things: dict[str, Any] = {}
    for row in document.get(name, ()):
        thing = read_thing(COLLECTIONS[name], row)
        if thing.id in things:
            raise UnusableInput("two-ids", thing.id, f"Two {name} have the id “{thing.id}”.")
        things[thing.id] = thing
    return things


def read_thing(kind: type[Thing], row: Mapping[str, Any]) -> Thing:
    """One dataclass from its JSON object, which has passed the schema."""
    hints = _hints(cast(Any, kind))
    return kind(**{name: _read_value(hints[name], value) for name, value in row.items()})


def write_thing(thing: Any, every_field: bool = False) -> dict[str, Any]:
    """The JSON object of one dataclass; fields at their default are left out, unless asked for."""
    return {name: _write_value(value) for name, value in _fields_set(thing, every_field)}


@cache
def _hints(kind: Any) -> dict[str, Any]:
    return get_type_hints(kind)


def _fields_set(thing: Any, every_field: bool) -> Iterator[tuple[str, Any]]:
    for field in fields(thing):
        value = getattr(thing, field.name)
        factory = field.default_factory
        default = field.default if factory is MISSING else factory()
        if every_field or default is MISSING or value != default:
            yield field.name, value


def _read_value(hint: Any, value: Any) -> Any:
    if value is None:
        return None
    if isinstance(hint, types.UnionType):
        return _read_value(get_args(hint)[0], value)
    if hint is Terminal:
        return Terminal.parse(value)
    if is_dataclass(hint):
        return read_thing(cast(type[Any], hint), value)
    if get_origin(hint) is tuple:
        return tuple(_read_value(get_args(hint)[0], item) for item in value)
    if isinstance(value, int) and not isinstance(value, bool) and hint is not int:
        return float(value)
    if isinstance(value, dict):
        of_items = get_args(hint)[1] if get_args(hint) else object
        return {name: _read_value(of_items, item) for name, item in value.items()}
    return value


def _write_value(value: Any) -> Any:
    if isinstance(value, Terminal):
        return str(value)
    if is_dataclass(value):
        return write_thing(value)
    if isinstance(value, tuple):
        return [_write_value(item) for item in value]
    if isinstance(value, Mapping):
        return {name: _write_value(item) for name, item in value.items()}
    return value
