"""Traces: chosen readings of a script over time, as rows of figures."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from circuitry.bench.bench import Bench
from circuitry.bench.readings import frame_of
from circuitry.bench.script import Script
from circuitry.design.model import Build, Terminal
from circuitry.document.checks import terminal_problem
from circuitry.errors import UnusableInput

MOST_ROWS = 1_000_000


@dataclass(frozen=True)
class Trace:
    """What is traced: a terminal's volts, a wire's amps, or the output of a load in %."""

    name: str
    unit: str
    number: int


def trace_named(build: Build, bench: Bench, name: str) -> Trace:
    """A trace by its name: ``part.terminal``, the id or label of a wire, or a load's id; raises
    UnusableInput."""
    wires = list(build.wires.values())
    for number, wire in enumerate(wires):
        if name in (wire.id, wire.label):
            return Trace(f"{wire.label} A", "A", number)
    loads = [part.id for part in build.parts_of_kind("load")]
    if name in loads:
        return Trace(f"{build.parts[name].name} %", "%", loads.index(name))
    if "." in name:
        terminal = Terminal.parse(name)
        problem = terminal_problem(build, terminal, "The trace is of")
        if problem:
            raise UnusableInput("missing-terminal", name, problem)
        return Trace(f"{name} V", "V", bench.rig.network.node[terminal])
    raise UnusableInput(
        "unknown-trace",
        name,
        f"“{name}” is no wire, load or terminal. Write part.terminal, a wire or a load.",
    )


def play(bench: Bench, script: Script) -> None:
    """Do everything in a script, and let time pass until it ends."""
    for action in script.actions:
        bench.act(action)
    bench.run_to(script.ends_s)


def rows_of(
    bench: Bench, script: Script, traces: Sequence[Trace], every_s: float
) -> Iterator[list[float]]:
    """The time and each trace, so many seconds apart, while a script is played."""
    if every_s <= 0 or script.ends_s / every_s > MOST_ROWS:
        raise UnusableInput(
            "too-many-rows",
            "--every",
            f"Rows every {every_s:g} s over {script.ends_s:g} s are too many: {MOST_ROWS} at most.",
        )
    waiting = list(script.actions)
    for row in range(round(script.ends_s / every_s) + 1):
        at_s = row * every_s
        while waiting and waiting[0].at_s <= at_s:
            bench.act(waiting.pop(0))
        bench.run(at_s)
        moment, point = bench.peek(at_s)
        shown: dict[str, Sequence[float]] = {
            "V": np.nan_to_num(point.operating.node_v).tolist(),
            "A": bench.wire_amps(point, moment).tolist(),
            "%": frame_of(bench, moment, point).load_percent,
        }
        yield [at_s, *(shown[trace.unit][trace.number] for trace in traces)]
