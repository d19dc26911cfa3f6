"""Functions that are not what they should be: turn lamps that do not flash, fogs without their
lock-out, coils the wrong way round, switches of which nothing is known, engines without a strap."""

from collections.abc import Iterator, Mapping
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices import switches_of
from circuitry.devices.ammeter import USUAL_SCALE_A
from circuitry.devices.connector import cavity_halves
from circuitry.devices.load import rated_current_a
from circuitry.devices.relay import relay_row
from circuitry.finding import Finding, Mend
from circuitry.sizing.result import Sizing

REVERSED_V = -0.3
CARRIES_FROM_A = 0.5
TYPICAL_CONTACT_A = {"key switch": 20.0, "isolator": 500.0}
TYPICAL_SWITCH_A = 20.0
"""What the contacts of common switches bear; typical, to be replaced by what is stamped on them."""
STRAPPED_FROM_A = 30.0


def function_findings(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """What is wrong with functions, whatever the sizes."""
    yield from _turn_lamps(sizing)
    yield from _flashers(sizing)
    yield from _rear_fogs(sizing)
    yield from _reversed_coils(original, sizing)
    yield from _unrated_switches(original, sizing)
    yield from _straps(sizing)
    yield from _ammeters(original, sizing)
    yield from _sensor_plugs(original)


def _turn_lamps(sizing: Sizing) -> Iterator[Finding]:
    steady = []
    for row in sizing.loads.values():
        load = sizing.build.parts[row.load]
        turns = catalogue().loads[load.catalogue or ""].duty == "flashing"
        flashes = any(step.kind in ("flasher", "output") for step in row.path.steps)
        if turns and not flashes:
            steady.append(load)
    if steady:
        yield Finding(
            "turn-without-flasher",
            "stop",
            tuple(load.id for load in steady),
            steady[0].circuit,
            f"{steady[0].name} does not flash",
            "no flasher on its way",
            "a flasher, or a box that flashes",
            "A turn lamp that stays lit says nothing. Lead the feed of the turn switch over a "
            "flasher.",
        )


def _flashers(sizing: Sizing) -> Iterator[Finding]:
    for part in sizing.build.parts_of_kind("flasher"):
        readings = [row.flashers[part.id] for row in sizing.solutions if part.id in row.flashers]
        lit = [row for row in readings if row.works not in ("at rest",)]
        if not lit or any(row.works == "flashing" for row in lit):
            continue
        kind = catalogue().flashers[part.catalogue or ""]
        other = next(row.kind for row in catalogue().flashers.values() if row.senses == "nothing")
        fields: dict[str, Any] = {"catalogue": other}
        yield Finding(
            "flasher-starved",
            "look",
            (part.id,),
            part.circuit,
            f"{part.name} is {lit[0].works}",
            f"{max(row.amps for row in lit):.2f} A of lamps",
            f"{kind.least_w:g} W at least",
            "It senses a missing lamp, and LED lamps take too little. A flasher that needs no "
            "load cures it, or a resistor beside the lamps, which gets hot.",
            (
                Mend(
                    f"Fit a {other.lower()}",
                    ({"op": "change", "collection": "parts", "id": part.id, "fields": fields},),
                ),
            ),
        )


def _rear_fogs(sizing: Sizing) -> Iterator[Finding]:
    """A rear fog lamp is locked out while neither dip nor front fogs are on: it needs two levers,
    or a box that asks for more."""
    for row in sizing.loads.values():
        load = sizing.build.parts[row.load]
        if "Rear fog" not in (load.catalogue or ""):
            continue
        levers = [part for name in row.path.positions if (part := sizing.build.parts.get(name))]
        switches = [part for part in levers if part.kind not in ("key switch", "relay")]
        if len(switches) < 2 and all(part.kind != "relay" for part in levers):
            yield Finding(
                "fog-without-interlock",
                "look",
                (load.id,),
                load.circuit,
                f"{load.name} comes on by its switch alone",
                "no lock-out",
                "only with dipped beam or front fogs",
                "In clear weather it dazzles who is behind, and most places forbid it. Feed its "
                "switch from the dipped beam. Local law decides.",
            )


def _reversed_coils(original: Build, sizing: Sizing) -> Iterator[Finding]:
    for part in sizing.build.parts_of_kind("relay"):
        if not relay_row(part).suppression.startswith("diode"):
            continue
        coil_v = [
            row.relays[part.id].coil_volts for row in sizing.solutions if part.id in row.relays
        ]
        # its diode holds a coil that is fed backwards near its own forward voltage
        volts = min(coil_v, default=0.0)
        if volts > REVERSED_V or max(coil_v, default=0.0) > -REVERSED_V:
            continue
        yield Finding(
            "coil-reversed",
            "stop",
            (part.id,),
            part.circuit,
            f"The coil of {part.name} is the wrong way round",
            f"{volts:.1f} V from 86 to 85",
            "86 positive",
            "Its diode then shorts the feed, and dies or parts the fuse. Change 85 and 86 over.",
            (Mend("Change 85 and 86 over", tuple(_changed_over(original, part))),),
        )


def _changed_over(build: Build, part: Part) -> Iterator[dict[str, Any]]:
    other = {"85": "86", "86": "85"}
    for wire in build.wires.values():
        for end in ("from_terminal", "to_terminal"):
            terminal: Terminal = getattr(wire, end)
            if terminal.part == part.id and terminal.name in other:
                fields = {end: f"{part.id}.{other[terminal.name]}"}
                yield {"op": "change", "collection": "wires", "id": wire.id, "fields": fields}


def _unrated_switches(original: Build, sizing: Sizing) -> Iterator[Finding]:
    unrated = [
        part
        for part in switches_of(original)
        if "contact_rating_a" not in part.figures
        and max((row.contact_a.get(part.id, 0.0) for row in sizing.solutions), default=0.0)
        > CARRIES_FROM_A
    ]
    if not unrated:
        return
    named = ", ".join(part.name for part in unrated[:4])
    more = f" and {len(unrated) - 4} more" if len(unrated) > 4 else ""
    yield Finding(
        "switch-unrated",
        "note",
        tuple(part.id for part in unrated),
        None,
        f"{len(unrated)} switches have no rating"
        if len(unrated) > 1
        else f"{unrated[0].name} has no rating",
        named + more,
        "what is stamped on them",
        "Whether their contacts bear what they carry is not known. Type what is stamped on them, "
        "or take typical figures until then.",
        (
            Mend(
                "Take typical ratings",
                tuple(
                    {
                        "op": "change",
                        "collection": "parts",
                        "id": part.id,
                        "fields": {"figures": {**part.figures, **_typical(part)}},
                    }
                    for part in unrated
                ),
            ),
        ),
        about="switches",
    )


def _typical(part: Part) -> dict[str, float]:
    return {"contact_rating_a": TYPICAL_CONTACT_A.get(part.kind, TYPICAL_SWITCH_A)}


def _straps(sizing: Sizing) -> Iterator[Finding]:
    """A starter or alternator whose current comes back through the body alone."""
    build = sizing.build
    if not build.body_conducts:
        return
    for row in sizing.loads.values():
        load = build.parts[row.load]
        heavy = rated_current_a(load) >= STRAPPED_FROM_A
        if heavy and any(step.kind == "body" for step in row.path.back):
            yield Finding(
                "no-engine-strap",
                "look",
                (load.id,),
                load.circuit,
                f"{load.name} returns through the body",
                f"{row.amps:.0f} A over sheet metal",
                "a strap from engine to battery negative",
                "Paint and rust stand in its way, and it finds throttle cables and hinges instead. "
                "Fit a strap from the engine to battery negative or its ground point.",
            )


def _ammeters(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """What an ammeter costs, and whether its scale has what flows through it."""
    for meter in original.parts_of_kind("ammeter"):
        most_a = max((abs(row.part_a.get(meter.id, 0.0)) for row in sizing.solutions), default=0.0)
        scale_a = meter.number("scale_a", USUAL_SCALE_A)
        yield Finding(
            "ammeter-in-feed",
            "look" if most_a > scale_a else "note",
            (meter.id,),
            meter.circuit,
            f"{meter.name} carries the whole car",
            f"{most_a:.0f} A through it",
            f"{scale_a:.0f} A on its scale",
            "All of the supply passes two nuts behind the dash, and a loose one takes the car "
            "along or burns it. A voltmeter on a run feed says more, over a thin wire with a fuse: "
            "below 13 V with the engine running, nothing charges.",
            tuple(_meter_out(original, meter)),
        )


def _meter_out(build: Build, meter: Part) -> Iterator[Mend]:
    """The wire that was parted for it leads on as before."""
    on = {
        name: [
            wire
            for wire in build.wires.values()
            if Terminal(meter.id, name) in (wire.from_terminal, wire.to_terminal)
        ]
        for name in ("in", "out")
    }
    if len(on["in"]) != 1 or len(on["out"]) != 1:
        return
    feeding, leaving = on["in"][0], on["out"][0]
    away = Terminal(meter.id, "out")
    beyond = leaving.to_terminal if leaving.from_terminal == away else leaving.from_terminal
    end = "to_terminal" if feeding.to_terminal.part == meter.id else "from_terminal"
    fields: dict[str, Any] = {end: str(beyond), "way": None}
    yield Mend(
        f"Take {meter.name} out again",
        (
            {"op": "change", "collection": "wires", "id": feeding.id, "fields": fields},
            {"op": "remove", "collection": "wires", "id": leaving.id},
            {"op": "remove", "collection": "parts", "id": meter.id},
        ),
    )


def _sensor_plugs(build: Build) -> Iterator[Finding]:
    """Plugs that a sensor has to itself, whose pins stand in another order than the car's."""
    order = build.policy.sensor_pins.split(", ")
    for plug in build.parts_of_kind("connector"):
        for half in (0, 1):
            found = _led_by(build, plug, half)
            sensors = {end.part for end in found.values()}
            if len(sensors) != 1 or len(found) < 2:
                continue
            stands = [end.name for end in found.values()]
            wanted = [row for row in order if row in stands]
            if stands == wanted or set(stands) != set(wanted):
                continue
            who = build.parts[sensors.pop()]
            yield Finding(
                "pins-out-of-order",
                "note",
                (plug.id, who.id),
                plug.circuit or who.circuit,
                f"{plug.name} has its pins in another order than the rest",
                ", ".join(stands),
                build.policy.sensor_pins,
                "Who measures it takes supply for ground. Put its pins in the order that the other "
                "sensors have, or change the policy.",
                (Mend("Put its pins in order", tuple(_in_order(build, plug, found, wanted))),),
            )


def _led_by(build: Build, plug: Part, half: int) -> dict[str, Terminal]:
    """The terminal of a sensor that each cavity of one half of a plug leads to, in the order of the
    cavities; empty where one leads to anything else."""
    found: dict[str, Terminal] = {}
    for pin in plug.pins:
        end = Terminal(plug.id, cavity_halves(pin.name)[half])
        for wire in build.wires.values():
            if end in (wire.from_terminal, wire.to_terminal):
                other = wire.to_terminal if wire.from_terminal == end else wire.from_terminal
                if build.parts[other.part].kind != "sensor":
                    return {}
                found[pin.name] = other
    return found


def _in_order(
    build: Build, plug: Part, found: Mapping[str, Terminal], wanted: list[str]
) -> Iterator[dict[str, Any]]:
    """Both halves of the plug with each wire in the cavity where it belongs."""
    at_of = {end.name: at for at, end in found.items()}
    goes = {at_of[name]: cavity for name, cavity in zip(wanted, found, strict=True)}
    over = {
        Terminal(plug.id, old): Terminal(plug.id, new)
        for at, cavity in goes.items()
        for old, new in zip(cavity_halves(at), cavity_halves(cavity), strict=True)
    }
    for wire in build.wires.values():
        fields = {
            name: str(over[end])
            for name, end in (
                ("from_terminal", wire.from_terminal),
                ("to_terminal", wire.to_terminal),
            )
            if end in over and over[end] != end
        }
        if fields:
            yield {"op": "change", "collection": "wires", "id": wire.id, "fields": fields}
