"""Every fuse and wire holds in every position of all switches, and the search finds the worst."""

import random
from dataclasses import replace
from itertools import product
from math import prod
from unittest import TestCase

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Terminal
from circuitry.design.state import Supply
from circuitry.devices import terminals_of
from circuitry.document.reading import from_document, read
from circuitry.network import Network, State
from circuitry.network.network import Settled
from circuitry.reach.paths import paths_of, state_of
from circuitry.reach.truth import levers_of
from circuitry.recipes.protection import fuse_output
from circuitry.sizing import size_build
from circuitry.sizing.facts import Facts
from circuitry.sizing.states import DESIGN_SUPPLIES
from circuitry.sizing.worst import Branch, most_together, quieter, resting_in, worst_positions
from tests.core.cars import ON_OFF, ROOT, document, part, roadster, switch, unpinned, wire
from tests.core.positions import random_states, use

POSITIONS = 1000
MARGIN = 1.01
MOST_COMBINED = 500
REGULATED = "constant power"


def demo(name: str) -> Build:
    return read((ROOT / "demo" / f"{name}.json").read_bytes())


def overloaded(build: Build, states: list[State]) -> set[str]:
    """Fuses and wires that carry more than they may in some state, or more than was told: a fuse
    its rating at any moment, and both what they bear for ever, by how long loads are on."""
    sizing = size_build(build)
    found = use(sizing, states)
    over = {*found.blown, *(name for name, share in found.used.items() if share > MARGIN)}
    over |= {name for name, share in found.over.items() if share > MARGIN}
    excused = {row.parts[0] for row in sizing.findings if row.code in ("fuse-too-small",)}
    return over - excused


class EveryPositionTest(TestCase):
    def test_no_size_is_too_small_in_any_of_many_random_positions(self) -> None:
        for build in (demo("saltmarsh-roadster"), demo("fernhill-half-ton-van"), roadster()):
            with self.subTest(build.name):
                self.assertEqual(overloaded(build, random_states(build, POSITIONS, 21)), set())

    def test_told_currents_are_those_of_brute_force(self) -> None:
        """Every combination of the switches that concern what is behind each fuse, the others at
        rest, or where least is on: for the fuse, and for each wire that it feeds."""
        for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
            build = demo(name)
            sizing = size_build(build)
            network = Network(sizing.build)
            compared, fed = 0, Facts(sizing.build).wires_behind
            for number, fuse in enumerate(sizing.fuses):
                states = every_position(sizing.build, fuse)
                if not 0 < len(states) <= MOST_COMBINED:
                    continue
                states += quieter(network, states, resting_in(network))
                tried = [row for row in network.try_many(states) if isinstance(row, Settled)]
                most_a = max(abs(float(network.fuse_a(row)[number])) for row in tried)
                pairs = {fuse: (most_a, sizing.fuses[fuse].current_a)}
                wire_a = np.abs([network.wire_a(row) for row in tried]).max(axis=0).tolist()
                for row, most_a in zip(sizing.wires.values(), wire_a, strict=True):
                    if row.wire in fed[fuse]:
                        pairs[row.wire] = most_a, row.current_a
                for part_id, (most_a, told_a) in pairs.items():
                    compared += 1
                    self.assertLessEqual(most_a, MARGIN * told_a + 0.002, (fuse, part_id))
                    self.assertLessEqual(told_a, MARGIN * most_a + 0.002, (fuse, part_id))
            self.assertGreater(compared, 25, name)

    def test_turn_lamps_fed_by_two_fuses_count_on_each(self) -> None:
        sizing = size_build(demo("saltmarsh-roadster"))
        turn = next(r for r in sizing.fuses.values() if "Turn" in sizing.build.parts[r.fuse].name)
        self.assertGreater(turn.current_a, 3.5)
        self.assertGreater(turn.rating_a, turn.current_a)
        self.assertIn("turn switch", turn.when)

    def test_no_fuse_is_smaller_than_lasts(self) -> None:
        for build in (demo("saltmarsh-roadster"), demo("fernhill-half-ton-van")):
            chosen = (row for row in size_build(build).fuses.values() if not row.pinned)
            self.assertGreaterEqual(min(row.rating_a for row in chosen), 3)

    def test_what_flows_only_backwards_or_past_a_load_counts_too(self) -> None:
        """A motor that a switch reverses takes its current over other wires each way."""
        table = switch(
            "reverse",
            ("off", []),
            ("up", [["in", "a"], ["b", "ground"]]),
            ("down", [["in", "b"], ["a", "ground"]]),
        )
        ends = [
            ("battery.+", "fuse.in"),
            ("fuse.out", "reverse.in"),
            ("reverse.a", "window.+"),
            ("window.-", "reverse.b"),
            ("reverse.ground", "battery.-"),
        ]
        parts = [part("fuse", "fuse", catalogue="regular blade"), table]
        parts.append(part("window", "load", catalogue="Window motor"))
        build = from_document(document(parts, [wire(n, *end) for n, end in enumerate(ends)]))
        positions = {row.state.switches.get("reverse") for row in worst_positions(build).asked}
        self.assertLessEqual({"up"}, positions)
        self.assertEqual(overloaded(unpinned(build), [State(switches={"reverse": "down"})]), set())


def every_position(build: Build, fuse: str) -> list[State]:
    """Every combination of the levers that concern the loads behind a fuse, at two supplies."""
    paths = paths_of(build)
    behind = paths.behind(fuse_output(build.parts[fuse]))
    ends = {end for step in behind for end in (step.from_terminal, step.to_terminal)}
    onward = {
        edge.step.owner for at in ends for edge in paths.edges[at] if edge.step.kind == "fuse"
    }
    taking = {
        part.id: part
        for part in build.parts.values()
        for name in terminals_of(part)
        if build.lands(Terminal(part.id, name)) in ends and name not in ("30", "87", "87a")
    }
    others = {"relay", "resistor", "box", "module", "diode"} & {row.kind for row in taking.values()}
    loads = [part for part in taking.values() if part.kind == "load"]
    # electronics take most where most else is on, which no few levers decide
    steady = [load for load in loads if catalogue().loads[load.catalogue or ""].kind != REGULATED]
    if onward != {fuse} or others or not loads or steady != loads:
        return []
    levers = levers_of(build, loads)
    if prod(len(lever.positions) for lever in levers) > MOST_COMBINED or len(levers) > 12:
        return []
    states = []
    for at in product(*(lever.positions for lever in levers)):
        state = state_of(build, dict(zip((lever.part for lever in levers), at, strict=True)))
        states += [replace(state, supply=supply) for supply in DESIGN_SUPPLIES]
    return states


class SearchTest(TestCase):
    def test_most_together_is_what_brute_force_finds(self) -> None:
        draw = random.Random(3)
        for _ in range(200):
            levers = {
                f"s{n}": ("a", "b", "c")[: draw.randint(2, 3)] for n in range(draw.randint(1, 6))
            }
            branches = {
                f"load {n}": Branch(
                    draw.randint(1, 9) / 2,
                    tuple(
                        {
                            lever: draw.choice(levers[lever])
                            for lever in draw.sample(
                                sorted(levers), draw.randint(0, min(3, len(levers)))
                            )
                        }
                        for _ in range(draw.randint(1, 3))
                    ),
                )
                for n in range(draw.randint(1, 8))
            }
            positions, chosen, whole = most_together(branches)
            self.assertTrue(whole)
            on = [
                n
                for n, b in branches.items()
                if any(w.items() <= positions.items() for w in b.ways)
            ]
            self.assertLessEqual(set(chosen), set(on))
            found = sum(branches[name].amps for name in chosen)
            self.assertEqual(found, brute_force(levers, branches))

    def test_the_network_agrees_with_brute_force_over_all_positions(self) -> None:
        build = two_lamps_and_a_fan()
        worst = worst_positions(build)
        network = Network(build)
        found = np.max([network.wire_a(network.settle(row.state)) for row in worst.asked], axis=0)
        names = [row.id for row in build.parts_of_kind("switch")]
        tried = [
            network.wire_a(
                network.settle(State(switches=dict(zip(names, at, strict=True)), supply=supply))
            )
            for at in product(*[["off", "on"]] * len(names))
            for supply in (Supply(14.4, 1e-4), Supply(12.0, 1e-4))
        ]
        np.testing.assert_allclose(found, np.max(tried, axis=0), rtol=1e-6)


def brute_force(levers: dict, branches: dict) -> float:
    """The most over every combination of positions."""
    return max(
        sum(
            row.amps
            for row in branches.values()
            if any(way.items() <= dict(zip(levers, at, strict=True)).items() for way in row.ways)
        )
        for at in product(*levers.values())
    )


def two_lamps_and_a_fan() -> Build:
    """Three loads behind one fuse, each with a switch, sharing a long feed and a long return."""
    loads = {"left": "Stop lamp 21 W", "right": "Stop lamp 21 W", "fan": "Radiator fan 300 mm"}
    parts = [part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 30})]
    parts += [part("bar", "bus bar"), part("point", "bus bar")]
    ends = [("battery.+", "fuse.in"), ("fuse.out", "bar.stud"), ("point.stud", "battery.-")]
    for name, kind in loads.items():
        parts += [switch(f"{name}-switch", *ON_OFF), part(name, "load", catalogue=kind)]
        ends += [
            ("bar.stud", f"{name}-switch.in"),
            (f"{name}-switch.out", f"{name}.+"),
            (f"{name}.-", "point.stud"),
        ]
    return from_document(document(parts, [wire(n, *end) for n, end in enumerate(ends)]))
