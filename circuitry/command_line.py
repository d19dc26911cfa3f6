"""``python -m circuitry size|solve|check|draft|budget|export BUILD.json``.

Exit code 0 done, 1 findings of severity stop, 2 unusable input with one clear line.
"""

import argparse
import json
import sys
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from circuitry import bench_commands
from circuitry.budget import budget
from circuitry.design.model import Build
from circuitry.devices import switches_of
from circuitry.devices.load import output_word
from circuitry.document.reading import MAX_BYTES, read, to_document, too_large, write
from circuitry.errors import UnusableInput
from circuitry.formats.spice import netlist
from circuitry.network import Network, State
from circuitry.plain import plain
from circuitry.reach.losses import losses
from circuitry.sizing import Sizing, size_build
from circuitry.stock.drafting import PANELS, RETURNS, SCHOOLS, Wants, draft

DONE, STOPPED, UNUSABLE = 0, 1, 2


def main(arguments: list[str]) -> int:
    """Run one command; prints to standard output, refusals to standard error."""
    options = _parser().parse_args(arguments)
    commands: dict[str, Callable[[Build, argparse.Namespace], int]] = {
        "size": _size,
        "solve": _solve,
        "check": _check,
        "draft": _draft,
        "bench": _bench,
        "losses": _losses,
        "budget": _budget,
        "export": _export,
    }
    try:
        return commands[options.command](_read(Path(options.build)), options)
    except UnusableInput as problem:
        said = f"{options.build}: {problem.where}: {problem.message}"
        print(" ".join(said.split()), file=sys.stderr)
        return UNUSABLE
    except BrokenPipeError:
        sys.stdout = None  # whoever read the answer has seen enough of it
        return DONE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="python -m circuitry", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    for name, about in (
        ("size", "choose every fuse and wire, with reasons"),
        ("solve", "volts and amps in one key and switch state"),
        ("check", "whether the build is usable, and its findings"),
        ("draft", "wire everything in the list that has no wires"),
        ("bench", "play a script at the bench: what happens, when and why"),
        ("losses", "what is dead when a bus, a module or a keypad is lost"),
        ("budget", "what the car draws against alternator and battery, scenario by scenario"),
        ("export", "write the sized build or a state in an open format"),
    ):
        command = commands.add_parser(name, help=about)
        command.add_argument("build", metavar="BUILD.json")
        command.add_argument("--json", action="store_true", help="print the whole result as JSON")
        if name in ("solve", "export"):
            command.add_argument("--key", default="off", help="off, accessory, run or crank")
            command.add_argument(
                "--set",
                action="append",
                default=[],
                metavar="SWITCH=POSITION",
                help="put a switch, by name or id, in a position; may be repeated",
            )
        if name == "draft":
            command.add_argument("--output", metavar="FILE", help="where to write the wired build")
            command.add_argument("--leave-out", action="append", default=[], metavar="STEP")
            command.add_argument("--school", choices=SCHOOLS, default=SCHOOLS[0])
            command.add_argument("--keypad", action="store_true", help="for what comfort asks")
            command.add_argument("--panels", choices=PANELS, default=PANELS[0])
            command.add_argument("--returns", choices=RETURNS, default=RETURNS[0])
            command.add_argument(
                "--old-loom-keeps",
                action="store_true",
                help="leave what the list says is to be kept on the old loom",
            )
        if name == "export":
            command.add_argument("--format", choices=("json", "spice", "csv"), default="json")
        if name in ("bench", "export"):
            bench_commands.add_options(command, name)
    return parser


def _read(path: Path) -> Build:
    try:
        size_bytes = path.stat().st_size
        if size_bytes > MAX_BYTES:
            raise too_large(size_bytes)
        return read(path.read_bytes())
    except OSError as problem:
        reason = problem.strerror or "cannot be read"
        raise UnusableInput("no-file", "file", f"{reason}. Check the path.") from None


def _state(build: Build, options: argparse.Namespace) -> State:
    switches = {}
    for setting in options.set:
        name, equals, position = setting.partition("=")
        part = next(
            (
                part
                for part in switches_of(build)
                if name.strip().lower() in (part.id, part.name.lower())
            ),
            None,
        )
        if part is None or not equals:
            known = ", ".join(part.name.lower() for part in build.parts_of_kind("switch"))
            raise UnusableInput(
                "unknown-switch",
                "--set",
                f"“{setting}” sets no switch of this build. It has {known}.",
            )
        switches[part.id] = position.strip()
    return State(options.key, switches)


def _size(build: Build, options: argparse.Namespace) -> int:
    sizing = size_build(build)
    if options.json:
        _print_json(
            {
                **_summary(sizing),
                "wires": _with_candidates(sizing, sizing.wires),
                "fuses": _with_candidates(sizing, sizing.fuses),
            }
        )
        return _exit_code(sizing)
    rows = [("circuit", "A", "fuse", "wire", "lost V", "limit V", "verdict")]
    for line in sizing.circuits.values():
        if line.drop_v is None or line.limit_v is None:
            continue
        fuse = build.parts[line.fuse].name if line.fuse else "none"
        rating = f"{sizing.fuses[line.fuse].rating_a:g} A" if line.fuse else ""
        rows.append(
            (
                build.circuits[line.circuit].name,
                f"{line.current_a:.2f}",
                f"{fuse} {rating}".strip(),
                line.size or "",
                f"{line.drop_v:.2f}",
                f"{line.limit_v:.2f}",
                line.verdict,
            )
        )
    _print_table(rows)
    _print_findings(sizing)
    return _exit_code(sizing)


def _solve(build: Build, options: argparse.Namespace) -> int:
    sized = size_build(build).build
    solution = Network(sized).solve(_state(sized, options))
    if options.json:
        _print_json(solution)
        return DONE
    print(f"battery {solution.battery_v:.3f} V, {solution.battery_a:.2f} A")
    rows = [("load", "V", "A", "output")]
    for load, reading in solution.loads.items():
        part = sized.parts[load]
        rows.append(
            (
                part.name,
                _fixed(reading.volts),
                _fixed(reading.amps),
                f"{reading.output_percent:.0f} % {output_word(part)}",
            )
        )
    _print_table(rows)
    return DONE


def _draft(build: Build, options: argparse.Namespace) -> int:
    wants = Wants(
        left_out=tuple(options.leave_out),
        school=options.school,
        keypad=options.keypad,
        panels=options.panels,
        returns=options.returns,
        old_loom_keeps=options.old_loom_keeps,
    )
    drafted = draft(build, wants)
    if options.json:
        _print_json({**plain(drafted), "build": to_document(drafted.build)})
    else:
        rows = [("step", "function", "loads", "proposed")]
        for step in drafted.steps:
            said = "left out" if step.left_out else step.problem or ", ".join(step.proposed)
            rows.append((step.id, step.title, str(len(step.branches)), said))
        _print_table(rows)
        print(f"{drafted.wires} wires, {drafted.length_m:.0f} m; {drafted.ways_free} ways free")
    if options.output:
        try:
            Path(options.output).write_text(write(drafted.build), encoding="utf-8")
        except OSError as problem:
            reason = problem.strerror or "cannot be written"
            raise UnusableInput("no-file", "--output", f"{reason}. Check the path.") from None
    return DONE


def _losses(build: Build, options: argparse.Namespace) -> int:
    sized = size_build(build).build
    found = losses(Network(sized), sized.parts_of_kind("load"))
    if options.json:
        _print_json({"losses": found})
        return DONE
    for row in found:
        names = ", ".join(sized.parts[load].name for load in row.dead)
        print(f"{row.name} ({row.kind}): {len(row.dead)} dead, {len(row.left)} left")
        if names:
            print(f"  {names}")
    if not found:
        print("No bus, module, keypad or control box that could be lost.")
    return DONE


def _budget(build: Build, options: argparse.Namespace) -> int:
    sizing = size_build(build)
    found = budget(sizing, sizing.network)
    if options.json:
        _print_json({"budget": found})
        return DONE
    for row in found.scenarios:
        print(
            f"{row.name}: draws {row.draws_a:.2f} A, alternator {row.alternator_a:.1f} of "
            f"{row.alternator_most_a:.1f} A, battery {row.battery_a:.2f} A, "
            f"{row.posts_v:.2f} V. {row.says}"
        )
    for name, why in found.problems.items():
        print(f"{name}: {why}")
    for what, unit, fit in (
        ("Alternator", "A", found.alternator),
        ("Battery", "Ah", found.battery),
    ):
        has, least = (f"{figure:g} {unit}" if figure else "none" for figure in (fit.has, fit.least))
        print(f"{what}: {has}, the least that does: {least}. {fit.why}")
    return DONE


def _check(build: Build, options: argparse.Namespace) -> int:
    sizing = size_build(build)
    if options.json:
        _print_json({"findings": sizing.findings})
    else:
        print(
            f"{build.name}: usable, {len(build.parts)} parts, {len(build.wires)} wires, "
            f"{len(sizing.findings)} findings"
        )
        _print_findings(sizing)
    return _exit_code(sizing)


def _bench(build: Build, options: argparse.Namespace) -> int:
    whole = bench_commands.run_bench(size_build(build), options)
    if whole is not None:
        _print_json(whole)
    return DONE


def _export(build: Build, options: argparse.Namespace) -> int:
    sizing = size_build(build)
    sized = sizing.build
    if options.format == "json":
        print(write(sized), end="")
        return DONE
    if options.format == "csv":
        bench_commands.export_traces(sizing, options)
        return DONE
    if options.script:
        text = bench_commands.netlist_at(sizing, options)
    else:
        network = Network(sized)
        text = netlist(network, network.solve(_state(sized, options)))
    print(json.dumps({"spice": text}) if options.json else text, end="\n" if options.json else "")
    return DONE


def _summary(sizing: Sizing) -> dict[str, Any]:
    return {
        "build": to_document(sizing.build),
        "circuits": sizing.circuits,
        "findings": sizing.findings,
    }


def _with_candidates(sizing: Sizing, rows: Mapping[str, Any]) -> dict[str, Any]:
    return {
        owner: {**plain(row), "candidates": plain(sizing.candidates(owner))}
        for owner, row in rows.items()
    }


def _exit_code(sizing: Sizing) -> int:
    return STOPPED if any(row.severity == "stop" for row in sizing.findings) else DONE


def _print_findings(sizing: Sizing) -> None:
    for row in sizing.findings:
        print(f"{row.severity}: {row.title}: {row.found}, limit {row.limit}. {row.why}")


def _fixed(value: float) -> str:
    text = f"{value:.3f}"
    return text.removeprefix("-") if float(text) == 0 else text


def _print_json(value: Any) -> None:
    print(json.dumps(plain(value), ensure_ascii=False, indent=1))


def _print_table(rows: Sequence[tuple[str, ...]]) -> None:
    widths = [max(len(row[column]) for row in rows) for column in range(len(rows[0]))]
    for row in rows:
        cells = [
            cell.ljust(width) if column == 0 else cell.rjust(width)
            for column, (cell, width) in enumerate(zip(row, widths, strict=True))
        ]
        print("  ".join(cells).rstrip())
