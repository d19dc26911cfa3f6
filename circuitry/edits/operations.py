"""Operations on a build: typed models, of which all apply, or none does.

What each takes, what it does and what refuses it stands here once: the JSON Schema, the API and the
types of the front end are made from these models. A field that an operation does not know is
refused.
"""

from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError
from pydantic_core import ErrorDetails

from circuitry.design.model import Body, Build, PinFunction, Policy, Terminal
from circuitry.document.reading import (
    COLLECTIONS,
    bad_field,
    hold,
    hold_plain,
    read_thing,
    shown,
    validate,
    with_collection,
    write_thing,
)
from circuitry.edits.changes import BUILD
from circuitry.errors import UnusableInput
from circuitry.finding import Mend
from circuitry.layout.as_built import cut_at
from circuitry.layout.pinning import pinned_way
from circuitry.layout.typed import set_run
from circuitry.progress import told
from circuitry.recipes.book import fed_otherwise, recipe_named
from circuitry.recipes.channels import enlarged, with_condition
from circuitry.recipes.figures import set_figures
from circuitry.recipes.legs import add_part, add_wire, insert
from circuitry.recipes.load import (
    LoadRequest,
    Wiring,
    add_load,
    remove_load,
    rewire_circuit,
    unwire_load,
)
from circuitry.recipes.points import Point, set_points
from circuitry.recipes.protection import MORE_WAYS, add_ways, comfort_fuses
from circuitry.recipes.recipe import Recipe, asks_for_fuse, write_recipe
from circuitry.recipes.whole import (
    merge_circuits,
    mirror_circuit,
    move_circuit,
    recolour,
    split_load,
)
from circuitry.sizing.placement import moved
from circuitry.stock import TypedRow, found_by_name, set_cells, wire_as_wished
from circuitry.stock.drafting import (
    MOST_SPARE,
    PER_SIDE,
    Modules,
    Panels,
    Returns,
    School,
    Wants,
    draft,
)
from circuitry.stock.harness import set_harness

MOST_AT_ONCE = 5000
MOST_SHARED = 3
TYPES = {
    "list": "array",
    "dict": "object",
    "model_attributes": "object",
    "string": "string",
    "bool": "boolean",
    "float": "number",
    "int": "integer",
}
"""What JSON calls the types that the models ask for."""
LINE = r"^[^\x00-\x1f]*$"
LINES = r"^[^\x00-\x08\x0b-\x1f]*$"
NAME = r"^[^\x00-\x1f]*\S[^\x00-\x1f]*$"
Id = Annotated[str, Field(max_length=64)]
TerminalText = Annotated[str, Field(max_length=100)]
Name = Annotated[str, Field(min_length=1, max_length=80, pattern=NAME)]
Short = Annotated[str, Field(max_length=80)]
PointName = Annotated[str, Field(max_length=24, pattern=LINE)]
Count = Annotated[int, Field(ge=1, le=60)]
Cells = Annotated[dict[str, Annotated[str, Field(max_length=1000)]], Field(max_length=40)]
Collection = Literal[
    "build",
    "places",
    "runs",
    "parts",
    "wires",
    "circuits",
    "found_circuits",
    "pin_pairs",
    "harness_circuits",
    "acceptances",
    "scenarios",
    "reels",
]


def _plainly(schema: dict[str, Any]) -> None:
    """Leave out what only the models need: who reads a default takes it for required."""
    for field in schema.get("properties", {}).values():
        field.pop("default", None)
        field.pop("title", None)


class _Typed(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True, json_schema_extra=_plainly)

    def given(self) -> dict[str, Any]:
        """The fields that were said, as JSON has them."""
        return self.model_dump(exclude_unset=True)


class NewSwitchAsked(_Typed):
    """A switch to be added with a load: off and on, or held."""

    name: Name
    place: Id
    momentary: bool = False


class WiringAsked(_Typed):
    """How a circuit is to be wired; what is not said is as usual."""

    key: Literal["always", "accessory", "run"] = "always"
    switch: TerminalText | None = None
    new_switch: NewSwitchAsked | None = None
    through: Literal["direct", "relay"] = "direct"
    fuse: Id | None = None


class StockRow(_Typed):
    """Cells of a row of the stock list as typed; a new row where it names no part."""

    part: Id | None = None
    cells: Cells


class TypedPoint(_Typed):
    """A pin, cavity, way or channel as typed; ``was`` is its name before, None for a new one."""

    name: PointName
    was: Annotated[str, Field(max_length=24)] | None = None
    function: PinFunction | Literal["channel"] = ""
    bus: Annotated[str, Field(max_length=24)] = ""
    when: Annotated[str, Field(max_length=300)] = ""
    limit_a: Annotated[float, Field(gt=0, le=1000)] | None = None


class ChosenPart(_Typed):
    """An answer of a recipe that names a part that is there, or one to be made."""

    part: Short | None = None
    row: Short | None = None
    place: Short | None = None
    name: Name | None = None


Value = (
    bool
    | Annotated[int, Field(ge=-1e6, le=1e6)]
    | Annotated[float, Field(ge=-1e6, le=1e6)]
    | Annotated[str, Field(max_length=500, pattern=LINES)]
    | None
)
Answer = Value | ChosenPart | Annotated[list[Value | ChosenPart], Field(max_length=60)]
Answers = Annotated[dict[str, Answer], Field(max_length=40)]


class _Operation(_Typed):
    def apply(self, build: Build) -> Build:
        """The build after it; raises UnusableInput."""
        raise NotImplementedError


class Add(_Operation):
    """Add one thing to a collection."""

    op: Literal["add"]
    collection: Collection
    value: dict[str, Any]

    def apply(self, build: Build) -> Build:
        if self.collection == BUILD:
            raise UnusableInput("bad-operation", BUILD, "A build cannot be added to a build.")
        validate(self.value, f"#/$defs/{self.collection.removesuffix('s')}")
        thing_id = self.value["id"]
        if thing_id in getattr(build, self.collection):
            raise UnusableInput(
                "two-ids",
                thing_id,
                f"There is already one of {self.collection} with id “{thing_id}”.",
            )
        return _with(build, self.collection, thing_id, self.value)


class Change(_Operation):
    """Change fields of one thing, or the build's own name, body and policy."""

    op: Literal["change"]
    collection: Collection
    id: Id
    fields: dict[str, Any]

    def apply(self, build: Build) -> Build:
        if self.collection == BUILD:
            return _change_build(build, self.fields)
        thing = _find(build, self.collection, self.id)
        if "id" in self.fields:
            raise UnusableInput("bad-operation", self.id, "An id cannot be changed.")
        value = {**write_thing(thing), **self.fields}
        validate(value, f"#/$defs/{self.collection.removesuffix('s')}")
        return _with(build, self.collection, self.id, value)


class Remove(_Operation):
    """Take one thing out of a collection."""

    op: Literal["remove"]
    collection: Collection
    id: Id

    def apply(self, build: Build) -> Build:
        if self.collection == BUILD:
            raise UnusableInput("bad-operation", BUILD, "A build cannot remove itself.")
        _find(build, self.collection, self.id)
        things = dict(getattr(build, self.collection))
        del things[self.id]
        return with_collection(build, self.collection, things)


class AddLoad(_Operation):
    """Add a load with its circuit, wires, ground, fuse and, through a relay, its relay."""

    op: Literal["add_load"]
    name: Name
    catalogue: Short
    place: Id
    wiring: WiringAsked = WiringAsked()
    beside: Id | None = None

    def apply(self, build: Build) -> Build:
        wiring = read_thing(Wiring, self.wiring.given())
        name = self.name.strip()
        return add_load(build, LoadRequest(name, self.catalogue, self.place, wiring, self.beside))


class RewireCircuit(_Operation):
    """Wire the same loads another way."""

    op: Literal["rewire_circuit"]
    circuit: Id
    wiring: WiringAsked

    def apply(self, build: Build) -> Build:
        return rewire_circuit(build, self.circuit, read_thing(Wiring, self.wiring.given()))


class RemoveLoad(_Operation):
    """Take a load out; its circuit goes with its last load."""

    op: Literal["remove_load"]
    load: Id

    def apply(self, build: Build) -> Build:
        return remove_load(build, self.load)


class SetCells(_Operation):
    """Set cells of the stock list as text, new rows too; all or none."""

    op: Literal["set_cells"]
    rows: Annotated[list[StockRow], Field(min_length=1, max_length=MOST_AT_ONCE)]
    new_places: bool = False
    by_name: bool = False

    def apply(self, build: Build) -> Build:
        rows = [TypedRow(row.part, row.cells) for row in self.rows]
        return set_cells(
            build, found_by_name(build, rows) if self.by_name else rows, self.new_places
        )


class WireLoad(_Operation):
    """Wire a load of the list as it asks."""

    op: Literal["wire_load"]
    load: Id

    def apply(self, build: Build) -> Build:
        return wire_as_wished(build, self.load)


class UnwireLoad(_Operation):
    """Take the wires of a load out, so that it stands in the list again."""

    op: Literal["unwire_load"]
    load: Id

    def apply(self, build: Build) -> Build:
        return unwire_load(build, self.load)


class RemoveRow(_Operation):
    """Take a row out of the list: a load with its wires, anything else only once it is free."""

    op: Literal["remove_row"]
    part: Id

    def apply(self, build: Build) -> Build:
        part = _find(build, "parts", self.part)
        if part.kind == "load":
            return remove_load(build, part.id)
        labels = [
            wire.label
            for wire in build.wires.values()
            if part.id in (wire.from_terminal.part, wire.to_terminal.part)
        ]
        if labels:
            some = ", ".join(labels[:5]) + (" …" if len(labels) > 5 else "")
            raise UnusableInput(
                "still-wired",
                part.id,
                f"{part.name} still has {len(labels)} wires: {some}. Take them off it first.",
            )
        return Remove(op="remove", collection="parts", id=part.id).apply(build)


class PinWay(_Operation):
    """Lead a wire along chosen runs; without any it takes the shortest way again."""

    op: Literal["pin_way"]
    wire: Id
    through: Annotated[list[Id], Field(max_length=60)]

    def apply(self, build: Build) -> Build:
        wire = _find(build, "wires", self.wire)
        way = pinned_way(build, wire, tuple(self.through)) if self.through else None
        wires = {**build.wires, wire.id: replace(wire, way=way)}
        return with_collection(build, "wires", wires)


class CutAt(_Operation):
    """A wire as it was cut on the day: what is more than its runs is in its ends."""

    op: Literal["cut_at"]
    wire: Id
    metres: Annotated[float, Field(gt=0, le=100)]

    def apply(self, build: Build) -> Build:
        wire = _find(build, "wires", self.wire)
        wires = {**build.wires, wire.id: cut_at(build, wire, self.metres)}
        return with_collection(build, "wires", wires)


class MovePart(_Operation):
    """Move a battery or panel with the fuses that go along, a battery with its isolators and its
    ground cable; anything else by itself."""

    op: Literal["move_part"]
    part: Id
    place: Id

    def apply(self, build: Build) -> Build:
        return moved(build, self.part, self.place)


class SetRun(_Operation):
    """Set cells of a run as text: ``3 ft 4``; a new run where it names none."""

    op: Literal["set_run"]
    run: Id | None = None
    cells: Cells

    def apply(self, build: Build) -> Build:
        return set_run(build, self.run, self.cells)


class SetHarness(_Operation):
    """Set cells of a circuit of a ready-made harness as text."""

    op: Literal["set_harness"]
    harness: Id | None = None
    cells: Cells

    def apply(self, build: Build) -> Build:
        return set_harness(build, self.harness, self.cells)


class WriteRecipe(_Operation):
    """Write a whole function, new or in place of a circuit; what is not answered is as usual."""

    op: Literal["write_recipe"]
    recipe: Annotated[str, Field(max_length=40)]
    answers: Answers = Field(default_factory=dict)
    name: Name | None = None
    circuit: Id | None = None

    def apply(self, build: Build) -> Build:
        recipe, answers = recipe_named(self.recipe), self.given().get("answers", {})
        try:
            return write_recipe(build, recipe, answers, self.name, self.circuit)
        except UnusableInput as problem:
            if problem.code != "no-free-way":
                raise
            shares = tuple(self._shared(build, recipe, answers))
            mends = (*problem.mends, *shares)
            raise UnusableInput(problem.code, problem.where, problem.message, mends) from None

    def _shared(self, build: Build, recipe: Recipe, answers: Mapping[str, Any]) -> Iterator[Mend]:
        """The same behind a fuse that others are behind already, where nothing of it and of them
        is more than comfort and that can be written; a few of them."""
        if recipe.criticality != "comfort" or answers.get("fuse") is not None:
            return
        found = 0
        for fuse in comfort_fuses(build) if asks_for_fuse(recipe) else ():
            shared = {**answers, "fuse": fuse.id}
            try:
                write_recipe(build, recipe, shared, self.name, self.circuit)
            except UnusableInput:
                continue
            yield Mend(
                f"Write it behind {fuse.name}, shared", ({**self.given(), "answers": shared},)
            )
            found += 1
            if found == MOST_SHARED:
                return


class LoadTo(_Typed):
    """A load, and the terminal behind the way or channel that it is to sit behind."""

    load: Id
    to: Annotated[str, Field(max_length=130)]


class DraftWants(_Typed):
    """What a draft of the wiring cannot know."""

    fuses: Literal["one for each side", "one fuse"] = PER_SIDE
    headlamp_relays: bool = True
    spare_ways: Annotated[int, Field(ge=0, le=MOST_SPARE)] = 2
    left_out: Annotated[list[Annotated[str, Field(max_length=120)]], Field(max_length=400)] = []
    school: School = "fuses and relays"
    modules: Modules = "front and rear"
    keypad: bool = False
    panels: Panels = "one"
    returns: Returns = "through the body"
    alive: Annotated[list[Id], Field(max_length=40)] | None = None
    old_loom_keeps: bool = False
    moves: Annotated[list[LoadTo], Field(max_length=400)] = []

    def wants(self) -> Wants:
        """The same for the core."""
        return Wants(
            self.fuses,
            self.headlamp_relays,
            self.spare_ways,
            tuple(self.left_out),
            self.school,
            self.modules,
            self.keypad,
            self.panels,
            self.returns,
            None if self.alive is None else tuple(self.alive),
            self.old_loom_keeps,
            tuple((row.load, row.to) for row in self.moves),
        )


class DraftWiring(DraftWants, _Operation):
    """Wire everything in the list that has no wires yet, each function by its recipe."""

    op: Literal["draft_wiring"]

    def apply(self, build: Build) -> Build:
        return draft(build, self.wants()).build


class AddWays(_Operation):
    """Give a panel more ways that are live from a key position."""

    op: Literal["add_ways"]
    panel: Id
    key: Literal["always", "accessory", "run"]
    count: Count = MORE_WAYS

    def apply(self, build: Build) -> Build:
        return add_ways(build, self.panel, self.key, self.count)


class FeedBy(_Operation):
    """Write a function again on channels of modules, or back on fuses and relays."""

    op: Literal["feed_by"]
    circuit: Id
    by: Literal["fuses and relays", "module channels"]
    module: Id | None = None

    def apply(self, build: Build) -> Build:
        return fed_otherwise(build, self.circuit, self.by, self.module)


class SetCondition(_Operation):
    """Say when an output of a module or box is on, what it lets pass in A, and over how many
    seconds a channel comes on."""

    op: Literal["set_condition"]
    part: Id
    output: PointName
    when: Annotated[str, Field(max_length=300)]
    limit_a: Annotated[float, Field(gt=0, le=1000)] | None = None
    soft_s: Annotated[float, Field(ge=0, le=5)] | None = None

    def apply(self, build: Build) -> Build:
        return with_condition(build, self.part, self.output, self.when, self.limit_a, self.soft_s)


class EnlargeModule(_Operation):
    """Fit the next larger module in place of one; its channels keep what they do."""

    op: Literal["enlarge_module"]
    module: Id

    def apply(self, build: Build) -> Build:
        return enlarged(build, self.module)


class AddWire(_Operation):
    """Add one wire by hand, labelled and coloured by the policy."""

    op: Literal["add_wire"]
    from_terminal: TerminalText
    to_terminal: TerminalText
    circuit: Id | None = None

    def apply(self, build: Build) -> Build:
        ends = Terminal.parse(self.from_terminal), Terminal.parse(self.to_terminal)
        return add_wire(build, *ends, self.circuit)


class AddPart(_Operation):
    """Add one part by hand; ``row`` is what it is among the choices of its kind."""

    op: Literal["add_part"]
    kind: Annotated[str, Field(max_length=40)]
    name: Name
    place: Id | None
    row: Short | None = None
    circuit: Id | None = None
    count: Count = 1

    def apply(self, build: Build) -> Build:
        place, name = self.place or "", self.name.strip()
        return add_part(build, self.kind, name, place, self.row, self.circuit, self.count)


class Insert(_Operation):
    """Put a part into a wire; ``count`` cavities of a connector."""

    op: Literal["insert"]
    wire: Id
    kind: Annotated[str, Field(max_length=40)]
    place: Id | None = None
    name: Name | Literal[""] = ""
    power: Id | None = None
    into: Id | None = None
    count: Count = 1

    def apply(self, build: Build) -> Build:
        return insert(
            build,
            self.wire,
            self.kind,
            self.place,
            self.name,
            self.power,
            self.into,
            self.count,
        )


class SplitLoad(_Operation):
    """Give a load a circuit and a way of its own."""

    op: Literal["split_load"]
    load: Id

    def apply(self, build: Build) -> Build:
        return split_load(build, self.load)


class MoveCircuit(_Operation):
    """Move a circuit to another panel, way or ground."""

    op: Literal["move_circuit"]
    circuit: Id
    panel: Id | None = None
    way: Annotated[str, Field(max_length=24)] | None = None
    ground: Id | None = None
    any_key: bool = False

    def apply(self, build: Build) -> Build:
        return move_circuit(build, self.circuit, self.panel, self.way, self.ground, self.any_key)


class MergeCircuits(_Operation):
    """Make several circuits one."""

    op: Literal["merge_circuits"]
    into: Id
    circuits: Annotated[list[Id], Field(min_length=1, max_length=200)]

    def apply(self, build: Build) -> Build:
        return merge_circuits(build, self.into, self.circuits)


class MirrorCircuit(_Operation):
    """Write a circuit again for the other side of the car."""

    op: Literal["mirror_circuit"]
    circuit: Id

    def apply(self, build: Build) -> Build:
        return mirror_circuit(build, self.circuit)


class Recolour(_Operation):
    """Give every wire the colour that the policy asks for."""

    op: Literal["recolour"]

    def apply(self, build: Build) -> Build:
        return recolour(build)


class SetPoints(_Operation):
    """Set pins of a box, cavities, ways or channels; wires and fuses go along with a new name."""

    op: Literal["set_points"]
    part: Id
    points: Annotated[list[TypedPoint], Field(max_length=200)]

    def apply(self, build: Build) -> Build:
        return set_points(build, self.part, [Point(**row.model_dump()) for row in self.points])


class SetFigures(_Operation):
    """Set figures of a part as text: ``4,7 kΩ``."""

    op: Literal["set_figures"]
    part: Id
    cells: Cells

    def apply(self, build: Build) -> Build:
        return set_figures(build, self.part, self.cells)


Operation = Annotated[
    Add
    | Change
    | Remove
    | AddLoad
    | RewireCircuit
    | RemoveLoad
    | SetCells
    | WireLoad
    | UnwireLoad
    | RemoveRow
    | PinWay
    | CutAt
    | MovePart
    | SetRun
    | SetHarness
    | WriteRecipe
    | DraftWiring
    | AddWays
    | FeedBy
    | SetCondition
    | EnlargeModule
    | AddWire
    | AddPart
    | Insert
    | SplitLoad
    | MoveCircuit
    | MergeCircuits
    | MirrorCircuit
    | Recolour
    | SetPoints
    | SetFigures,
    Field(discriminator="op"),
]
Operations = Annotated[list[Operation], Field(min_length=1, max_length=MOST_AT_ONCE)]
READER: TypeAdapter[list[Operation]] = TypeAdapter(Operations)


def apply_operations(build: Build, operations: object) -> Build:
    """The build after a list of operations, checked as a whole; raises UnusableInput."""
    hold_plain(operations, "operations")
    try:
        read = READER.validate_python(operations)
    except ValidationError as error:
        raise _problem(operations, error.errors(include_url=False)[0]) from None
    before = build
    for operation in told("Making the changes", read):
        build = operation.apply(build)
    hold(build, before)
    return build


def _problem(operations: object, error: ErrorDetails) -> UnusableInput:
    """What is wrong with an operation, in the words of a document's."""
    at = [step for number, step in enumerate(error["loc"]) if number != 1]
    found, limits = error["input"], error.get("ctx", {})
    most = limits.get("le", limits.get("lt", limits.get("max_length")))
    sentences = {
        "missing": "is missing.",
        "extra_forbidden": "is no field of it.",
        "union_tag_not_found": "has no op.",
        "union_tag_invalid": f"is {shown(limits.get('tag'))}, but must be one of "
        f"{limits.get('expected_tags', '')}.",
        "literal_error": f"is {shown(found)}, but must be {limits.get('expected', '')}.",
        "string_pattern_mismatch": f"is {shown(found)}, which is not written as expected.",
        "string_too_short": "is empty: fill it in.",
        "string_too_long": f"is longer than {most} characters.",
        "too_long": f"has more than {most} entries.",
        "too_short": "is empty: name at least one.",
        "less_than_equal": f"is {shown(found)}, but must be at most {most}.",
        "greater_than_equal": f"is {shown(found)}, but must be at least {limits.get('ge')}.",
        "greater_than": f"is {shown(found)}, but must be more than {limits.get('gt')}.",
    }
    kind = error["type"].removesuffix("_type")
    if kind in TYPES:
        sentences[error["type"]] = f"is {shown(found)}, but must be of type {TYPES[kind]}."
    said = sentences.get(error["type"], f"is {shown(found)}: {error['msg']}.")
    return bad_field(operations, at, said, "operations")


def _change_build(build: Build, fields: Mapping[str, Any]) -> Build:
    unknown = set(fields) - {"name", "body_conducts", "policy", "body", "harness_from"}
    if unknown:
        raise UnusableInput(
            "bad-field", BUILD, f"A build has no field {', '.join(sorted(unknown))}."
        )
    for name in ("policy", "body"):
        if not isinstance(fields.get(name, {}), dict):
            raise UnusableInput("bad-field", BUILD, f"{name} must be an object of its fields.")
    policy = {**write_thing(build.policy), **fields.get("policy", {})}
    validate(policy, "#/$defs/policy")
    body = {**write_thing(build.body), **fields.get("body", {})}
    validate(body, "#/$defs/body")
    validate(fields.get("name", build.name), "#/$defs/name")
    validate(fields.get("harness_from"), "#/$defs/optional_id")
    if not isinstance(fields.get("body_conducts", False), bool):
        raise UnusableInput("bad-field", BUILD, "body_conducts must be true or false.")
    return replace(
        build,
        name=fields.get("name", build.name),
        body_conducts=fields.get("body_conducts", build.body_conducts),
        policy=read_thing(Policy, policy),
        body=read_thing(Body, body),
        harness_from=fields.get("harness_from", build.harness_from),
    )


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
