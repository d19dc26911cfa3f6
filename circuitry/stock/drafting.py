"""The wiring of a whole car, drafted from its stock list.

Each function is written by its recipe, in the order of the work: what feeds, what starts, the
lamps, the motors, the engine, what is comfort. What no recipe knows is wired as the list asks for
it. Only what has no wires yet is drafted, so that what stands stays, and a draft can be made again
for what is new.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, Literal, get_args

from circuitry.design.logic import spoken
from circuitry.design.model import Build, Part, Terminal, Wish
from circuitry.design.routes import length_m
from circuitry.devices import is_switch
from circuitry.devices.contact_tables import TABLES
from circuitry.devices.hearing import BUTTON, bus_pins, buses_of
from circuitry.errors import UnusableInput
from circuitry.progress import told
from circuitry.recipes.ask import default_answer, place_near
from circuitry.recipes.book import FED_BY, RECIPES
from circuitry.recipes.buses import with_button
from circuitry.recipes.channels import enlarged, larger, packed
from circuitry.recipes.choices import switch_named
from circuitry.recipes.logic import PLAIN_SWITCHES
from circuitry.recipes.modules import BY_MODULES, HARD_WIRED
from circuitry.recipes.points import CHANNEL
from circuitry.recipes.protection import (
    MORE_WAYS,
    WayStatus,
    taken_beside,
    ways,
    with_ways,
)
from circuitry.recipes.recipe import Recipe, write_recipe
from circuitry.recipes.regroup import guards, moved_load
from circuitry.stock.cells import wire_as_wished
from circuitry.stock.patterns import SIDES
from circuitry.stock.plans import (
    AS_LISTED,
    BUS_WHY,
    CABLES_WHY,
    FAR_PANEL_WHY,
    FIRST_ON_MODULES,
    KEYPAD_WHY,
    MODULE_WHY,
    NO_PLACE,
    ON_CHANNELS,
    PLACE_IT,
    PLANS,
    STAYS,
    Plan,
    listed,
)
from circuitry.stock.proposal import Alive, Draft, DraftStep, Telling, darkest
from circuitry.stock.rows import KEY_ONLY, UNPLACED

MOST_SPARE = 20
NOT_DRAFTED = ("remove", "spare")
"""States of the list that ask for no wires."""
COUNTED = ("fuse", "relay", "module", CHANNEL, "connector")
LISTED_KINDS = ("load", "flasher", "alternator")
"""What a builder lists, beside switches; relays, fuses, plugs and splices come with the wiring."""
PER_SIDE: Literal["one for each side"] = "one for each side"
School = Literal["fuses and relays", "modules", "both"]
SCHOOLS: tuple[School, ...] = get_args(School)
"""What protects and switches. In ``both`` the engine stays on fuses and relays."""
Modules = Literal["front and rear", "one"]
Panels = Literal["one", "one at each end"]
PANELS: tuple[Panels, ...] = get_args(Panels)
Returns = Literal["through the body", "by wire"]
RETURNS: tuple[Returns, ...] = get_args(Returns)
ENGINE_RECIPES = ("fuel-pump", "fan")
ASKED_ALIVE = {
    "stop-lamps": "Stop lamps",
    "horn": "Horn",
    "interior": "Interior lamps",
    "sockets": "Sockets",
    "reversed-by-relays": "Door locks",
    "reversed-by-switch": "Windows",
}
"""Recipes of which tastes differ whether they live with the key off, and what they are called."""
KEPT = "keep"
PROPOSED = {("cluster", "fluid_switch")}
"""Questions of a recipe that a draft answers though the list says nothing of them."""
REAR_WAYS = 3
TWO_POSITIONS = ("Switch, off and on", "Push button")
"""Contacts that a button of a keypad can take the place of."""
HEAVIER = ("too-heavy", "no-half-bridge")
"""Why a function stays on fuses and relays in a car on modules."""


@dataclass(frozen=True)
class Wants:
    """What a draft cannot know.

    ``left_out`` are steps that are not to be written, by id. ``alive`` are the functions that live
    with the key off, by recipe; None takes the usual of each. ``panels`` is for a car on fuses and
    relays. ``old_loom_keeps`` leaves what is to be kept on the old loom. ``moves`` put a load
    behind another way, fuse or channel than the draft chose: its id, and the terminal behind that,
    such as ``panel.F7``.
    """

    fuses: str = PER_SIDE
    headlamp_relays: bool = True
    spare_ways: int = 2
    left_out: tuple[str, ...] = ()
    school: School = "fuses and relays"
    modules: Modules = "front and rear"
    keypad: bool = False
    panels: Panels = "one"
    returns: Returns = "through the body"
    alive: tuple[str, ...] | None = None
    old_loom_keeps: bool = False
    moves: tuple[tuple[str, str], ...] = ()


def draft(build: Build, wants: Wants = Wants()) -> Draft:
    """The wiring of everything in the list that has none, step by step."""
    if not build.parts_of_kind("panel"):
        raise UnusableInput(
            "no-panel",
            "panel",
            "There is no panel to put fuses in. Add one under Circuits, with ways that are live "
            "always, from accessory and from run, or begin the car from its kind.",
        )
    drafted = _Drafting(build, wants)
    for plan in told("Drafting the wiring", PLANS):
        if plan.recipe == FIRST_ON_MODULES:
            drafted.add_ground_cables()
            drafted.add_panel()
            drafted.add_modules()
        drafted.write(plan)
    drafted.wire_the_rest()
    drafted.spare()
    drafted.move()
    if drafted.keypad and not drafted.buttons:
        return draft(build, replace(wants, keypad=False))
    return drafted.answer()


class _Drafting:
    """A draft under way: the build so far, and the steps that led there."""

    def __init__(self, build: Build, wants: Wants) -> None:
        self.before = build
        self.build = build
        self.passed_over = (*NOT_DRAFTED, KEPT) if wants.old_loom_keeps else NOT_DRAFTED
        self.wants = wants
        self.steps: dict[str, DraftStep] = {}
        self.parts_of: dict[str, set[str]] = {}
        self.ways_added = 0
        self.keypad = ""
        self.buttons: list[str] = []
        self.refused = ""

    def write(self, plan: Plan) -> None:
        """Write a recipe, once or for each of its loads, as long as the list wants it."""
        recipe = RECIPES[plan.recipe]
        if plan.loads:
            recipe = _only(recipe, plan.loads)
        stood = {row.written.recipe for row in self.before.circuits.values() if row.written}
        while (asked := self._to_wire()) and plan.wanted(asked, recipe):
            if recipe.id in stood and not plan.loads:
                return
            answers = _answers(asked, recipe, self.wants)
            loads = _loads_in(asked, answers)
            identity = "-".join([recipe.id, *(loads[:1] if plan.loads else ())])
            step = DraftStep(identity, recipe.title, plan.why)
            if not self._written(step, plan.recipe, answers, loads) or not plan.loads:
                return

    def _to_wire(self) -> Build:
        """The build as recipes are asked about it: without loads that are not placed yet, go out,
        or stay on the old loom."""
        waiting = _loose(self.build, self.passed_over)
        ready = {load.id for load in waiting if load.place != UNPLACED}
        parts = {
            part.id: part
            for part in self.build.parts.values()
            if part.kind != "load" or part.circuit or part.housed or part.id in ready
        }
        return replace(self.build, parts=parts)

    def add_ground_cables(self) -> None:
        """Cables between the ground points where no return is to go through the body, which then
        counts for nothing."""
        if self.wants.returns == "by wire" and self.build.body_conducts:
            self._add("ground-cables", "Ground cables", {}, CABLES_WHY)
            self.build = replace(self.build, body_conducts=False)

    def add_panel(self) -> None:
        """A panel at the other end, where one is wanted and there is none. Modules are at both
        ends by themselves."""
        if (
            self.wants.school != SCHOOLS[0]
            or self.wants.panels == "one"
            or not _loose(self._to_wire())
        ):
            return
        rear = place_near(self.build, ("luggage", "rear"))
        if rear.id not in {row.place for row in self.build.parts_of_kind("panel")}:
            answers = {"name": "Rear panel", "place": rear.id, "ways": REAR_WAYS}
            self._add("far-panel", "Rear panel", answers, FAR_PANEL_WHY)

    def move(self) -> None:
        """Put loads behind what they are wanted behind. Raises UnusableInput."""
        for load, to in self.wants.moves:
            if load in self.build.parts and self.build.parts[load].circuit is not None:
                self.build = moved_load(self.build, load, Terminal.parse(to))

    def add_modules(self) -> None:
        """Modules where the car has none, a keypad where one is wanted, and the bus between."""
        if self.wants.school == SCHOOLS[0]:
            return
        if not self.build.parts_of_kind("module"):
            panel = self.build.parts_of_kind("panel")[0].place
            ends = {"Front module": panel}
            rear = place_near(self.build, ("luggage", "rear"))
            if self.wants.modules == "front and rear" and rear.id != panel:
                ends["Rear module"] = rear.id
            for name, place in ends.items():
                answers = {"name": name, "place": place}  # the least, which grows as it fills
                self._add("power-module", name, answers, MODULE_WHY)
        if self.wants.keypad:
            self._add("keypad", "Keypad", {"buttons": ""}, KEYPAD_WHY)
            pads = (part for part in self.build.parts_of_kind("box") if part.name == "Keypad")
            self.keypad = next((part.id for part in pads), "")
        hearing = [row for row in self.build.parts.values() if bus_pins(row)]
        if len(hearing) > 1 and not buses_of(self.build):
            self._add("data-bus", "Data bus", {}, BUS_WHY)

    def _add(self, recipe: str, name: str, answers: Mapping[str, Any], why: str) -> None:
        write = partial(write_recipe, recipe=RECIPES[recipe], answers=answers, name=name)
        self._step(DraftStep(f"{recipe}-{spoken(name)}", name, why), write, ())

    def _written(
        self, step: DraftStep, recipe_id: str, answers: dict[str, Any], loads: Sequence[str]
    ) -> bool:
        """Write a function on channels where that is wanted and they bear it, else on fuses."""
        recipe = RECIPES[recipe_id]
        write = partial(write_recipe, recipe=recipe, answers=answers)
        if not self._on_modules(recipe):
            return self._step(step, write, loads)
        on_channels = {**answers, FED_BY.name: BY_MODULES}
        with_keypad = partial(self._with_buttons, recipe, on_channels)
        named = replace(step, why=ON_CHANNELS.get(recipe_id, step.why))
        done = self._step(named, with_keypad, loads)
        if done or self.refused not in HEAVIER:
            return done
        return self._step(replace(step, why=f"{step.why} {STAYS}"), write, loads)

    def _on_modules(self, recipe: Recipe) -> bool:
        school = self.wants.school
        asks = any(row.name == FED_BY.name for row in recipe.questions)
        off = school == "both" and recipe.id in ENGINE_RECIPES
        return asks and school != SCHOOLS[0] and not off

    def _with_buttons(
        self, recipe: Recipe, answers: Mapping[str, Any], build: Build, name: str | None = None
    ) -> Build:
        """A recipe written with buttons of the keypad for its plain switches, unless safety hangs
        on them."""
        given, taken = dict(answers), list(self.buttons)
        pressed = self.keypad and recipe.criticality not in HARD_WIRED
        for question in recipe.questions if pressed else ():
            answer = given.get(question.name)
            if question.kind != "switch" or not answer:
                continue
            part = build.parts.get(answer.get("part", ""))
            table = part.contacts if part else TABLES.get(answer.get("row", question.rows[0]))
            stands = part is not None and part.id in build.wired_parts()
            if stands or table not in [TABLES[row] for row in TWO_POSITIONS]:
                continue
            called = part.name if part else answer.get("name") or question.label
            held = table == TABLES["Push button"]
            if part is not None:
                parts = {k: v for k, v in build.parts.items() if k != part.id}
                build = replace(build, parts=parts)
            build, button = with_button(build, self.keypad, called, held)
            given[question.name] = {"part": button}
            taken.append(called)
        written = write_recipe(build, recipe, given, name)
        self.buttons = taken
        return written

    def wire_the_rest(self) -> None:
        """Wire what is left of the list as it asks for; the same on two sides is one step."""
        waiting = _loose(self.build, self.passed_over)
        lost = [load.id for load in waiting if load.place == UNPLACED]
        if lost:
            self.parts_of[UNPLACED] = set(lost)
            self.steps[UNPLACED] = DraftStep(UNPLACED, "Not placed yet", NO_PLACE, problem=PLACE_IT)
        for load in _loose(self._to_wire()):
            if self._is_passed_over(load.id) or self.build.parts[load.id].circuit is not None:
                continue
            step = DraftStep(f"load-{load.id}", load.name, AS_LISTED)
            plain = RECIPES["plain-load"]
            asked = _as_wished(self.build, load) if self._on_modules(plain) else None
            if asked is None or not self._on_channel(step, plain, asked, load):
                self._step(step, partial(wire_as_wished, load_id=load.id), [load.id])

    def _on_channel(
        self,
        step: DraftStep,
        recipe: Recipe,
        answers: dict[str, Any],
        load: Part,
    ) -> bool:
        """A plain load on a channel, with its like on the other side; whether that can be."""
        like = [
            row
            for row in _loose(self._to_wire())
            if row.id != load.id
            and (row.catalogue, row.wish) == (load.catalogue, load.wish)
            and _without_side(row.name) == _without_side(load.name) != row.name
        ]
        answers = {**answers, "more": [{"part": row.id} for row in like]}
        name = _without_side(load.name) if like else load.name
        loads = [load.id, *(row.id for row in like)]
        on_channels = {**answers, FED_BY.name: BY_MODULES}
        write = partial(self._with_buttons, recipe, on_channels, name=name)
        done = self._step(replace(step, title=name), write, loads)
        if done or self.steps[step.id].left_out:
            return True
        del self.steps[step.id], self.parts_of[step.id]
        return False

    def spare(self) -> None:
        """More ways where fewer are free than are wanted, where most are taken."""
        for module in self.build.parts_of_kind("module"):
            grown, left = larger(module), sum(not way.when for way in module.ways)
            on_it = module.id not in self.before.parts or module != self.before.parts[module.id]
            if grown and on_it and self.wants.spare_ways and not left:
                self.build = enlarged(self.build, module.id)
            if module.id not in self.before.parts:
                self.build = packed(self.build, module.id)
        rows = ways(self.build)
        wanting = self.wants.spare_ways - sum(row.fuse is None for row in rows)
        if wanting > 0:
            self._grow(max(rows, key=lambda row: taken_beside(rows, row)), wanting)

    def answer(self) -> Draft:
        """The draft with what it takes."""
        telling = Telling(self.build, {load for load, _ in self.wants.moves})
        rows, new = ways(self.build), self.build.wires.keys() - self.before.wires.keys()
        steps = [
            replace(row, branches=telling.branches(row, self.parts_of[row.id]))
            for row in self.steps.values()
        ]
        return Draft(
            self.build,
            tuple(steps),
            {kind: _count(self.build, kind) - _count(self.before, kind) for kind in COUNTED},
            len(new),
            sum(length_m(self.build, self.build.wires[wire]) for wire in new),
            len(rows),
            sum(row.fuse is None for row in rows),
            self.ways_added,
            darkest(self.build),
            tuple(_asked_alive(self.wants, self.steps)),
            any(row.state == KEPT for row in _loose(self.before)),
            tuple(guards(self.build)),
            tuple(f"a cover for {panel.name}" for panel in self._filled()),
        )

    def _filled(self) -> list[Part]:
        """The panels that get fuses."""
        fuses = (part for part in self.build.parts_of_kind("fuse") if part.fitted)
        new = {part.fitted.panel for part in fuses if part.id not in self.before.parts}  # type: ignore[union-attr]
        return [panel for panel in self.build.parts_of_kind("panel") if panel.id in new]

    def _step(self, step: DraftStep, write: Callable[[Build], Build], loads: Sequence[str]) -> bool:
        """Take a step unless it is left out; whether something is written."""
        self.parts_of[step.id] = set(loads)
        if step.id in self.wants.left_out:
            self.steps[step.id] = replace(step, left_out=True)
            return False
        self.refused = ""
        try:
            after = self._with_room(write)
        except UnusableInput as problem:
            self.refused = problem.code
            self.steps[step.id] = replace(step, problem=problem.message)
            return False
        self._take(step, after)
        return True

    def _with_room(self, write: Callable[[Build], Build]) -> Build:
        """What is written, in a panel that has grown where it had no way left."""
        for _ in range(MOST_SPARE):
            try:
                return write(self.build)
            except UnusableInput as problem:
                if problem.code in ("no-free-channel", "no-free-input") and problem.mends:
                    module = problem.mends[0].operations[0]["module"]
                    self.build = enlarged(self.build, module)
                    continue
                rows = ways(self.build)
                full = [row for row in rows if not _free_beside(rows, row)]
                if problem.code != "no-free-way" or not full:
                    raise
                grown = max(full, key=lambda row: taken_beside(rows, row))
            self._grow(grown, MORE_WAYS)
        return write(self.build)

    def _grow(self, beside: WayStatus, count: int) -> None:
        self.build = with_ways(self.build, beside.panel, beside.bus, count)
        self.ways_added += count

    def _take(self, step: DraftStep, after: Build) -> None:
        new = [part for part in after.parts.values() if part.id not in self.build.parts]
        listed = {part.name for part in self.before.parts.values()}
        proposed = tuple(
            f"{part.name}, for yours has other contacts" if part.name in listed else part.name
            for part in new
            if (part.kind in LISTED_KINDS or is_switch(part)) and part.housed is None
        )
        joined = {
            part.circuit
            for part in after.parts.values()
            if part.id in self.parts_of[step.id] and part.circuit
        }
        circuits = tuple(row for row in after.circuits if row not in self.build.circuits)
        self.build = after
        beside = next((row for row in self.steps.values() if joined & set(row.circuits)), None)
        if beside is not None and not circuits:
            self.parts_of[beside.id] |= self.parts_of.pop(step.id)
            self._call_both(beside)
            return
        self.parts_of[step.id].update(part.id for part in new if part.kind == "load")
        title = after.circuits[circuits[0]].name if len(circuits) == 1 else step.title
        taken = replace(step, title=title, circuits=circuits, proposed=proposed)
        self.steps[step.id] = taken
        if len(self.parts_of[step.id]) > 1 and SIDES & set(title.lower().split()):
            self._call_both(taken)

    def _call_both(self, step: DraftStep) -> None:
        """Call a circuit that serves both sides, and what guards and switches it, by what both are:
        ``Worklights``."""
        circuit = self.build.circuits[step.circuits[0]]
        name = _without_side(circuit.name)
        circuits = {**self.build.circuits, circuit.id: replace(circuit, name=name)}
        guards = {
            part.id: replace(part, name=part.name.replace(circuit.name, name))
            for part in self.build.parts_of_kind("fuse", "relay")
            if circuit.name in part.name
        }
        parts = {**self.build.parts, **guards}
        self.build = replace(self.build, circuits=circuits, parts=parts)
        self.steps[step.id] = replace(step, title=name)

    def _is_passed_over(self, load: str) -> bool:
        return any(
            load in self.parts_of[step.id] and (step.left_out or step.problem)
            for step in self.steps.values()
        )


def _count(build: Build, kind: str) -> int:
    """How many parts of a kind there are, or channels of modules that do something."""
    if kind == CHANNEL:
        return sum(bool(way.when) for row in build.parts_of_kind("module") for way in row.ways)
    return len(build.parts_of_kind(kind))


def _as_wished(build: Build, load: Part) -> dict[str, Any] | None:
    """How the list wants a load, as answers of a plain one; None where that is not plain."""
    wish = load.wish or Wish()
    asked: dict[str, Any] = {"load": {"part": load.id}, "key": wish.key or "always"}
    if wish.switch.lower() in ("", KEY_ONLY):
        return asked if asked["key"] != "always" else None
    for button in build.parts_of_kind(BUTTON):
        if button.name.lower() == wish.switch.lower():
            return {**asked, "switch": {"part": button.id}}
    known = switch_named(build, wish.switch)
    if known is None:
        row = TWO_POSITIONS["push" in wish.switch.lower()]
        return {**asked, "switch": {"row": row, "place": load.place, "name": wish.switch}}
    table = build.parts[known.terminal.part].contacts
    if table not in [TABLES[row] for row in PLAIN_SWITCHES]:
        return None
    return {**asked, "switch": {"part": known.terminal.part}, "output": known.terminal.name}


def _without_side(name: str) -> str:
    """What two that differ by their side are both called: ``Worklights``."""
    words = [word for word in name.split() if word.lower() not in SIDES]
    return name if len(words) == len(name.split()) else f"{' '.join(words).removesuffix('s')}s"


def _loose(build: Build, passed_over: Sequence[str] = NOT_DRAFTED) -> list[Part]:
    """The loads of the list that have no wires and are to get some; not those of some states."""
    return [
        load
        for load in build.parts_of_kind("load")
        if load.circuit is None and load.housed is None and load.state not in passed_over
    ]


def _asked_alive(wants: Wants, steps: Iterable[str]) -> Iterator[Alive]:
    """The functions among the steps of a draft of which it asks whether they live with the key off,
    and the answers."""
    written = list(steps)
    for recipe, said in ASKED_ALIVE.items():
        if any(step == recipe or step.startswith(f"{recipe}-") for step in written):
            key = next(row for row in RECIPES[recipe].questions if row.name == "key")
            usual = key.choices[0] == "always"
            alive = usual if wants.alive is None else recipe in wants.alive
            yield Alive(recipe, said, alive)


def _only(recipe: Recipe, rows: tuple[str, ...]) -> Recipe:
    """The recipe where its loads may be of these rows alone."""
    questions = tuple(
        replace(row, rows=rows) if row.kind in ("load", "loads") else row
        for row in recipe.questions
    )
    return replace(recipe, questions=questions)


def _loads_in(build: Build, answers: Mapping[str, Any]) -> list[str]:
    """The loads of the list that answers name."""
    rows = [
        row
        for answer in answers.values()
        for row in (answer if isinstance(answer, list) else [answer])
    ]
    named = (str(row["part"]) for row in rows if isinstance(row, dict) and "part" in row)
    return [part for part in named if build.parts[part].kind == "load"]


def _answers(build: Build, recipe: Recipe, wants: Wants) -> dict[str, Any]:
    """The usual answers, with every load of the list that a question means; what may be left out
    and is not in the list is."""
    taken: set[str] = set()
    answers: dict[str, Any] = {}
    for question in recipe.questions:
        answer = default_answer(build, question, taken)
        if question.kind == "loads":
            more = [part.id for part in listed(build, question) if part.id not in taken]
            answer = [*(answer or []), *({"part": part} for part in more)]
            taken.update(more)
            if question.optional:
                answer = [row for row in answer if "part" in row]
        elif question.kind == "load" and question.optional and answer and "part" not in answer:
            answer = None
        elif answer is None and (recipe.id, question.name) in PROPOSED:
            answer = default_answer(build, replace(question, left_out=False), taken)
        answers[question.name] = answer
    if "fuses" in answers:
        answers["fuses"] = wants.fuses
    if "relays" in answers:
        answers["relays"] = wants.headlamp_relays
    if recipe.id in ASKED_ALIVE and wants.alive is not None and "key" in answers:
        asked = next(row for row in recipe.questions if row.name == "key")
        by_key = next(key for key in (*asked.choices, "run") if key != "always")
        answers["key"] = "always" if recipe.id in wants.alive else by_key
    return answers


def _free_beside(rows: Sequence[WayStatus], row: WayStatus) -> bool:
    """Whether its bus has a free way."""
    return any(
        other.fuse is None for other in rows if (other.panel, other.bus) == (row.panel, row.bus)
    )
