"""The bench from the command line: a script played, its traces, and the netlist of an instant."""

import argparse
import csv
import sys
from pathlib import Path
from typing import Any

from circuitry.bench.bench import Bench
from circuitry.bench.readings import frame_of
from circuitry.bench.script import Script, read_script
from circuitry.bench.traces import play, rows_of, trace_named
from circuitry.devices.load import output_word
from circuitry.errors import UnusableInput
from circuitry.formats.spice import instant_netlist
from circuitry.plain import plain
from circuitry.sizing.result import Sizing


def add_options(command: argparse.ArgumentParser, name: str) -> None:
    """The options of ``bench`` and ``export`` that have to do with time."""
    if name == "bench":
        command.add_argument("script", metavar="SCRIPT.json")
    else:
        command.add_argument("--script", metavar="SCRIPT.json", help="what is done at the bench")
        command.add_argument("--at", type=float, metavar="S", help="the instant, in seconds")
        command.add_argument(
            "--every", type=float, default=0.05, metavar="S", help="csv: a row each"
        )
        command.add_argument(
            "--trace",
            action="append",
            default=[],
            metavar="NAME",
            help="csv: part.terminal, a wire or a load; may be repeated",
        )


def script_at(path: str, sizing: Sizing) -> Script:
    """The script in a file; raises UnusableInput."""
    try:
        return read_script(Path(path).read_bytes(), sizing.build)
    except OSError as problem:
        reason = problem.strerror or "cannot be read"
        raise UnusableInput("no-file", "script", f"{reason}. Check the path.") from None


def run_bench(sizing: Sizing, options: argparse.Namespace) -> dict[str, Any] | None:
    """Play a script: print its tape and what every load does at the end, or give it whole."""
    bench = Bench(sizing)
    play(bench, script_at(options.script, sizing))
    frame = frame_of(bench, bench.moment, bench.point)
    loads = bench.build.parts_of_kind("load")
    if options.json:
        return {
            "tape": plain(bench.tape),
            "loads": [part.id for part in loads],
            "wires": list(bench.build.wires),
            "fuses": [part.id for part in bench.build.parts_of_kind("fuse")],
            "frame": plain(frame),
        }
    for event in bench.tape:
        why = f": {event.why}" if event.why else ""
        print(f"{event.t_s:10.3f} s  {event.what}{why}")
    print(f"battery {frame.battery_v:.2f} V, {frame.battery_a:.2f} A at {frame.t_s:.3f} s")
    for part, percent, amps in zip(loads, frame.load_percent, frame.load_a, strict=True):
        if percent >= 2:
            print(f"  {part.name}: {percent:.0f} % {output_word(part)}, {abs(amps):.2f} A")
    return None


def export_traces(sizing: Sizing, options: argparse.Namespace) -> None:
    """Write traces of a script as CSV."""
    if not options.script or not options.trace:
        raise UnusableInput(
            "no-traces", "--trace", "CSV is of traces: name a --script and at least one --trace."
        )
    bench = Bench(sizing)
    traces = [trace_named(bench.build, bench, name) for name in options.trace]
    table = csv.writer(sys.stdout, lineterminator="\n")
    table.writerow(["time s", *(trace.name for trace in traces)])
    for row in rows_of(bench, script_at(options.script, sizing), traces, options.every):
        table.writerow([f"{figure:.6g}" for figure in row])


def netlist_at(sizing: Sizing, options: argparse.Namespace) -> str:
    """The netlist of the instant of a script that is asked for, or of its end."""
    bench = Bench(sizing)
    script = script_at(options.script, sizing)
    end_s = script.ends_s if options.at is None else options.at
    actions = tuple(action for action in script.actions if action.at_s <= end_s)
    play(bench, Script(actions, end_s))
    return instant_netlist(bench)
