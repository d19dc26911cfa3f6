"""Recipes for what the car shows: head, side, stop, reversing and fog lamps."""

from collections.abc import Sequence
from dataclasses import replace

from circuitry.design.model import Part, Terminal
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import FUSE, Recipe, needs_key

LAW = "Lamps, their colours and their interlocks follow local law: check it before you drive."
HOT = "Lamps and their holders get hot."
BEAMS = ("Dipped beam halogen 55 W", "Headlamp LED with driver")
MAINS = ("Main beam halogen 60 W", "Headlamp LED with driver", "Driving lamp halogen 100 W")
TELLTALES = ("Telltale LED", "Telltale 1.2 W")
TAILS = ("Tail lamp 5 W", "Tail lamp LED")
STOPS = ("Stop lamp 21 W", "High stop lamp LED")
SIDES = ("left", "right")
OWN_FUSE = {"side": "Side lamps", "head": "Rear fog", "dip": "Rear fog", "main": "Fog lock-out"}
"""What guards what is small, by the position that it hangs on, where beams hang there too."""
ONE_FUSE, FOR_EACH_SIDE = "one fuse", "one for each side"
LIGHT_SWITCH = Question(
    "light_switch",
    "switch",
    "Light switch",
    rows=("Light switch, side and head",),
    near=("light", "dash"),
    shared=True,
)

PEDAL = Question(
    "pedal",
    "switch",
    "Brake switch",
    rows=("Pedal switch", "Pedal switch, change-over"),
    near=("brake", "pedal"),
    shared=True,
)


def corner(name: str, label: str, rows: tuple[str, ...], *near: str, **fields: bool) -> Question:
    """A load at a corner of the car."""
    return Question(name, "load", label, rows=rows, near=near, **fields)  # type: ignore[arg-type]


def headlamps(job: Job) -> None:
    """Light switch, dip switch, a relay and a fuse for each beam, telltale on the main beam."""
    light, dip = job.need_switch("light_switch"), job.need_switch("dip_switch")
    dipped = [job.need_load("dip_left"), job.need_load("dip_right")]
    main = [job.load("main_left"), job.load("main_right")]
    telltale = job.load("telltale")
    job.feed_switch(light, "always", f"{job.circuit.name} switch")
    job.feed_once(light, "head", dip, "in")
    tables = dip.contacts
    if tables and "live" in tables.terminals:
        job.feed_once(light, "in", dip, "live")
    if job.flag("relays"):
        starts = []
        for beam in ("dip", "main"):
            relay = job.relay(f"{'Dipped' if beam == 'dip' else 'Main'} beam relay")
            job.coil(relay, dip, beam)
            job.feed(job.fuse("always", relay.name.replace(" relay", "")), "out", relay, "30")
            starts.append((relay, "87"))
        (dip_from, dip_out), (main_from, main_out) = starts
    else:
        (dip_from, dip_out), (main_from, main_out) = (dip, "dip"), (dip, "main")
        _set_apart(job, light, dip)
    if job.choice("fuses") == ONE_FUSE:
        job.loads_on(dip_from, dip_out, *dipped)
        job.loads_on(main_from, main_out, *main, telltale)
        return
    _each_side(job, dip_from, dip_out, "Dipped beam", dipped)
    _each_side(job, main_from, main_out, "Main beam", main)
    job.loads_on(main_from, main_out, telltale)


def _each_side(job: Job, start: Part, out: str, name: str, loads: Sequence[Part | None]) -> None:
    """A fuse for each side, so that one that parts leaves half of the light."""
    for side, load in zip(SIDES, loads, strict=True):
        if load is not None:
            fuse = job.line_fuse(f"{name} fuse {side}", job.panel_place())
            job.feed(start, out, fuse, "in")
            job.loads_on(fuse, "out", load)


def small(job: Job, switch: Part, out: str) -> tuple[Part, str]:
    """Where something small takes a position of the light or dip switch: behind a fuse of its own
    where beams go through the switch with no relay, for what guards those lets through more than
    thin wires bear."""
    asked = {"part": switch.id}
    written = (row.written for row in job.draft.circuits.values() if row.written)
    carries_beams = any(
        row.recipe == "headlamps"
        and not row.answers.get("relays", True)
        and asked in (row.answers.get("light_switch"), row.answers.get("dip_switch"))
        for row in written
    )
    return (_own_fuse(job, switch, out), "out") if carries_beams else (switch, out)


def _own_fuse(job: Job, switch: Part, out: str) -> Part:
    """The fuse for what is small on a position of a switch, there already or new."""
    for wire in job.draft.wires_on(job.terminal(switch, out)):
        part = job.draft.parts[wire.to_terminal.part]
        if (part.kind, part.name) == ("fuse", OWN_FUSE[out]):
            return part
    fuse = job.line_fuse(OWN_FUSE[out], job.panel_place())
    job.feed(switch, out, fuse, "in")
    return fuse


def _set_apart(job: Job, light: Part, dip: Part) -> None:
    """Put what other circuits have on positions of these switches behind fuses of their own."""
    for switch, out in ((light, "side"), (light, "head"), (dip, "dip"), (dip, "main")):
        position = job.terminal(switch, out)
        for wire in job.draft.wires_on(position):
            end = job.draft.parts[wire.to_terminal.part]
            if wire.circuit == job.circuit.id or end.kind == "fuse" or end.id == dip.id:
                continue
            own = replace(wire, from_terminal=Terminal(_own_fuse(job, switch, out).id, "out"))
            job.draft.wires[wire.id] = own


def side_and_tail(job: Job) -> None:
    """All four corners from the side position, behind one fuse or one for each side."""
    light = job.need_switch("light_switch")
    sides = {side: [job.load(f"front_{side}"), job.load(f"rear_{side}")] for side in SIDES}
    others = [*job.loads("plate"), *job.loads("instruments")]
    job.feed_switch(light, "always")
    if job.choice("fuses") == ONE_FUSE:
        job.loads_on(*small(job, light, "side"), *sides["left"], *sides["right"], *others)
        return
    for side in SIDES:
        fuse = job.line_fuse(f"Side lamps {side}", job.panel_place())
        job.feed(light, "side", fuse, "in")
        job.loads_on(fuse, "out", *sides[side], *(others if side == "left" else ()))


def stop_lamps(job: Job) -> None:
    """Pedal switch straight to the lamps."""
    pedal = job.need_switch("pedal")
    key = job.choice("key")
    if not job.draft.wires_on(job.terminal(pedal, "in")):
        job.feed(job.fuse(key), "out", pedal, "in")
    job.loads_on(pedal, "out", job.need_load("left"), job.load("right"), *job.loads("more"))


def reversing(job: Job) -> None:
    """Gear switch to lamps and sounder; diodes keep the sounder quiet when the lamps are fogs."""
    gear = job.need_switch("gear")
    job.feed_switch(gear, "run")
    lamps = [job.need_load("left"), job.load("right")]
    sounder = job.load("sounder")
    fog = job.switch("fog_switch") if job.flag("as_fogs") else None
    if fog is None:
        job.loads_on(gear, "out", *lamps, sounder)
        return
    first = lamps[0]
    assert first is not None
    from_gear = job.diode("Reversing diode", gear.place)
    from_fog = job.diode("Rear fog diode", gear.place)
    job.feed_switch(fog, "run", "Rear fog")
    job.feed(gear, "out", from_gear, "anode")
    job.feed(fog, "out", from_fog, "anode")
    job.feed(from_fog, "cathode", from_gear, "cathode")
    job.loads_on(from_gear, "cathode", *lamps)
    job.loads_on(gear, "out", sounder)


def fogs(job: Job) -> None:
    """Front fogs from the side lamps; a rear fog only with dipped beam or front fogs."""
    light, dip = job.need_switch("light_switch"), job.switch("dip_switch")
    job.feed_switch(light, "always", "Light switch")
    if dip is not None:
        job.feed_once(light, "head", dip, "in")
    front, rear = [job.load("front_left"), job.load("front_right")], job.load("rear")
    front_switch = job.switch("front_switch") if any(front) else None
    if front_switch is not None:
        if not job.fed(front_switch, "in"):
            job.feed(*small(job, light, "side"), front_switch, "in")
        relay = job.relay("Front fog relay")
        _front_coil(job, relay, front_switch, dip)
        job.feed(job.fuse("always", "Front fogs"), "out", relay, "30")
        job.loads_on(relay, "87", *front)
    if rear is None:
        return
    switch = job.need_switch("rear_switch")
    allows = [(dip, "dip") if dip is not None else (light, "head")]
    if front_switch is not None:
        allows.append((front_switch, "out"))
    if len(allows) == 1 and not job.fed(switch, "in"):
        job.feed(*small(job, *allows[0]), switch, "in")
    for number, (source, out) in enumerate(allows if len(allows) > 1 else (), 1):
        diode = job.diode(f"Rear fog diode {number}", job.panel_place())
        job.feed(*small(job, source, out), diode, "anode")
        job.feed(diode, "cathode", switch, "in")
    job.loads_on(switch, "out", rear, job.load("telltale"))


def _front_coil(job: Job, relay: Part, switch: Part, dip: Part | None) -> None:
    """The coil of the front fogs, broken by main beam where that is asked for."""
    if not (job.flag("off_with_main") and dip is not None):
        job.coil(relay, switch, "out")
        return
    lock_out = job.relay("Front fog lock-out relay", "micro 5-pin")
    job.coil(lock_out, *small(job, dip, "main"))
    job.feed(switch, "out", lock_out, "30")
    job.coil(relay, lock_out, "87a")


RECIPES = (
    Recipe(
        "headlamps",
        "Headlamps",
        "lighting",
        "safety",
        "Dipped and main beam from light switch and dip switch, flash with the lights off, and a "
        "telltale for main beam.",
        f"{HOT} {LAW}",
        (
            "Both beams on one side swapped: one lamp dips while the other does not.",
            "Dim lamps: thin wires or the return of both lamps on one poor ground.",
            "Telltale on with dipped beam: a missing ground lets current back through the lamp.",
        ),
        (
            LIGHT_SWITCH,
            Question(
                "dip_switch",
                "switch",
                "Dip switch",
                rows=("Dip switch with flash", "Dip switch"),
                near=("dip", "column"),
                shared=True,
            ),
            corner("dip_left", "Dipped beam left", BEAMS, "dip", "left", "front"),
            corner("dip_right", "Dipped beam right", BEAMS, "dip", "right", "front"),
            corner("main_left", "Main beam left", MAINS, "main", "left", "front", optional=True),
            corner("main_right", "Main beam right", MAINS, "main", "right", "front", optional=True),
            corner("telltale", "Main beam telltale", TELLTALES, "main", "dash", optional=True),
            Question("relays", "flag", "Through relays", usual=True),
            Question(
                "fuses",
                "choice",
                "Fuses",
                choices=(FOR_EACH_SIDE, ONE_FUSE),
                help="One fuse for both lamps leaves the road dark when it parts.",
            ),
        ),
        headlamps,
    ),
    Recipe(
        "side-and-tail",
        "Side and tail lamps",
        "lighting",
        "safety",
        "Side and tail lamps at all corners, number plate and instruments, from the first position "
        "of the light switch.",
        LAW,
        (
            "One corner dim and the others too when braking: a shared ground is missing.",
            "One fuse dark takes every corner: a fuse for each side keeps half of them.",
        ),
        (
            LIGHT_SWITCH,
            corner("front_left", "Side lamp left", ("Side lamp 5 W",), "side", "front", "left"),
            corner("front_right", "Side lamp right", ("Side lamp 5 W",), "side", "front", "right"),
            corner("rear_left", "Tail lamp left", TAILS, "tail", "rear", "left"),
            corner("rear_right", "Tail lamp right", TAILS, "tail", "rear", "right"),
            Question(
                "plate",
                "loads",
                "Number-plate lamp",
                rows=("Number-plate lamp 5 W",),
                near=("plate", "rear"),
                optional=True,
            ),
            Question(
                "instruments",
                "loads",
                "Instrument lamps",
                rows=("Instrument lamp 2.2 W",),
                near=("instrument", "dash"),
                optional=True,
                left_out=True,
            ),
            Question("fuses", "choice", "Fuses", choices=(ONE_FUSE, FOR_EACH_SIDE)),
        ),
        side_and_tail,
    ),
    Recipe(
        "stop-lamps",
        "Stop lamps",
        "lighting",
        "safety",
        "Stop lamps from a switch at the brake pedal.",
        f"{LAW} Look at them from behind, or in a wall, before every first drive.",
        (
            "Lamps always on: the pedal does not lift the switch, or its terminals are bridged.",
            "Tail lamps light with the brake: the rear ground is missing.",
        ),
        (
            PEDAL,
            corner("left", "Stop lamp left", STOPS, "stop", "left", "rear"),
            corner("right", "Stop lamp right", STOPS, "stop", "right", "rear", optional=True),
            Question(
                "more",
                "loads",
                "High stop lamp",
                rows=("High stop lamp LED", "Stop lamp 21 W"),
                near=("high", "stop", "trailer"),
                optional=True,
                left_out=True,
            ),
            needs_key("always"),
            FUSE,
        ),
        stop_lamps,
    ),
    Recipe(
        "reversing",
        "Reversing lamps",
        "lighting",
        "safety",
        "Reversing lamps and a sounder from the gear switch. Where the same lamps serve as rear "
        "fogs, diodes keep the sounder silent then.",
        LAW,
        (
            "The sounder sounds with the fogs: a diode is missing or stands the wrong way round.",
            "Lamps a little dim: a diode takes about 0.8 V.",
        ),
        (
            Question(
                "gear",
                "switch",
                "Gear switch",
                rows=("Gear switch",),
                near=("gear",),
                shared=True,
            ),
            corner("left", "Reversing lamp", ("Reversing lamp 21 W",), "revers", "rear"),
            corner(
                "right",
                "Second reversing lamp",
                ("Reversing lamp 21 W",),
                "revers",
                "right",
                optional=True,
                left_out=True,
            ),
            corner(
                "sounder",
                "Reversing sounder",
                ("Reversing sounder",),
                "sounder",
                "rear",
                optional=True,
                left_out=True,
            ),
            Question("as_fogs", "flag", "Lamps serve as rear fogs too", usual=False),
            Question(
                "fog_switch",
                "switch",
                "Rear fog switch",
                rows=("Switch, off and on",),
                near=("fog", "dash"),
                shared=True,
            ),
        ),
        reversing,
    ),
    Recipe(
        "fogs",
        "Fog lamps",
        "lighting",
        "safety",
        "Front fogs with the side lamps, a rear fog only with dipped beam or front fogs, and front "
        "fogs off with main beam where that is asked for.",
        f"{HOT} {LAW}",
        (
            "Rear fog works alone: it is fed past its interlock.",
            "Dipped beam comes on with the front fogs: a diode is missing or turned round.",
        ),
        (
            LIGHT_SWITCH,
            Question(
                "dip_switch",
                "switch",
                "Dip switch",
                rows=("Dip switch with flash", "Dip switch"),
                near=("dip", "column"),
                shared=True,
                optional=True,
            ),
            corner(
                "front_left",
                "Front fog left",
                ("Fog lamp halogen 55 W",),
                "fog",
                "left",
                "front",
                optional=True,
            ),
            corner(
                "front_right",
                "Front fog right",
                ("Fog lamp halogen 55 W",),
                "fog",
                "right",
                "front",
                optional=True,
            ),
            Question(
                "front_switch",
                "switch",
                "Front fog switch",
                rows=("Switch, off and on",),
                near=("front", "fog", "dash"),
            ),
            Question("off_with_main", "flag", "Front fogs off with main beam", usual=True),
            corner(
                "rear",
                "Rear fog lamp",
                ("Rear fog lamp 21 W",),
                "fog",
                "rear",
                optional=True,
            ),
            Question(
                "rear_switch",
                "switch",
                "Rear fog switch",
                rows=("Switch, off and on",),
                near=("rear", "fog", "dash"),
            ),
            corner(
                "telltale",
                "Rear fog telltale",
                TELLTALES,
                "fog",
                "dash",
                optional=True,
                left_out=True,
            ),
        ),
        fogs,
    ),
)
