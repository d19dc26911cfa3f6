"""Cars at the bench for tests: played from short lists of what is done and when."""

from functools import cache
from typing import Any

from circuitry.bench.bench import Bench
from circuitry.bench.readings import Frame
from circuitry.bench.script import script_from
from circuitry.design.model import Build
from circuitry.devices.sensor import USUAL_SENDER_OHM
from circuitry.document.reading import from_document, read
from circuitry.sizing import Sizing, size_build
from tests.core.cars import ROOT

ROADSTER, VAN, COUPE = "saltmarsh-roadster", "fernhill-half-ton-van", "quarrel-hill-rally-coupe"


@cache
def demo(name: str) -> Sizing:
    return size_build(read((ROOT / "demo" / f"{name}.json").read_bytes()))


def bench_of(car: Sizing | Build | dict) -> Bench:
    """A car at the bench, off: sized already, or to be."""
    if isinstance(car, dict):
        car = from_document(car)
    return Bench(car if isinstance(car, Sizing) else size_build(car))


def do(bench: Bench, at_s: float, what: str, of: str = "", to: Any = None, **fields: Any) -> None:
    """Do one thing."""
    row = {"at_s": at_s, "do": what, "of": of, "to": to, **fields}
    (action,) = script_from([row], bench.build).actions
    bench.act(action)


def as_built(bench: Bench) -> None:
    """Senders at what the build says of them, as steady states have them, however warm it is."""
    for part in bench.build.parts_of_kind("sensor"):
        if part.contacts is None:
            do(bench, 0.0, "sender", part.id, part.number("resistance_ohm", USUAL_SENDER_OHM))


def fault(bench: Bench, at_s: float, kind: str, of: str, other: str = "", **fields: Any) -> None:
    """Put a fault in."""
    do(bench, at_s, "fault", fault={"kind": kind, "of": of, "other": other, **fields})


def percent(bench: Bench, frame: Frame, load: str) -> float:
    """What a load does in a frame, in % of rated."""
    ids = [part.id for part in bench.build.parts_of_kind("load")]
    return frame.load_percent[ids.index(load)]


def amps(bench: Bench, frame: Frame, load: str) -> float:
    """What a load takes in a frame."""
    ids = [part.id for part in bench.build.parts_of_kind("load")]
    return frame.load_a[ids.index(load)]


def told(bench: Bench, words: str) -> list[float]:
    """When the tape says this."""
    return [event.t_s for event in bench.tape if words in event.what]
