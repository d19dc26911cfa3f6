"""A kind of part that nobody has made yet, added as a newcomer would: one class, one entry."""

from collections.abc import Iterable, Iterator, Sequence
from unittest import TestCase, mock

import numpy as np

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State, Supply
from circuitry.devices import DEVICES
from circuitry.devices.device import (
    Around,
    Branch,
    Condition,
    Crossing,
    Device,
    Figure,
    Need,
)
from circuitry.devices.hearing import BUTTON
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, nodes
from circuitry.document.reading import from_document, to_document
from circuitry.drawing import as_svg, schematic
from circuitry.edits.operations import apply_operations
from circuitry.errors import UnusableInput
from circuitry.formats.spice import netlist
from circuitry.network import Network
from circuitry.reach.fall import fall_line
from circuitry.reach.paths import paths_of
from circuitry.sizing import size_build
from tests.core.cars import document, part, wire

GLYPH = "M0 5 h20"


class LowVoltageCutOff(Device):
    """Lets current through as long as its feed is above a voltage."""

    kind = "low-voltage cut-off"
    figures = (Figure("opens_below_v", "opens below", "V", 11.5),)
    glyph = GLYPH

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "in", "out", "ground"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        crossing = Crossing(needs=(part.id, "closed"))
        yield Branch("contact", "in", "out", 200.0, position="closed", crossing=crossing)
        yield Branch("electronics", "in", "ground", 1e-3)

    def needs(self, part: Part, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        fed = Terminal(part.id, "in"), Terminal(part.id, "ground")
        yield (part.id, "closed"), (Need(fed[:1], fed[1:]),)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield Watching(parts, node)


class Watching(Mover):
    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        self.positions = [(part.id, "closed") for part in parts]
        self._in, self._ground = nodes(parts, "in", node), nodes(parts, "ground", node)
        limits = [part.number("opens_below_v", 11.5) for part in parts]
        self._limit_v = np.array(limits)[:, None]

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        wanted: Flags = volts[self._in] - volts[self._ground] >= self._limit_v
        return wanted


def camper(**figures: float) -> dict:
    return document(
        [
            part("fuse", "fuse", catalogue="regular blade", circuit="fridge"),
            part("guard", LowVoltageCutOff.kind, figures=figures, circuit="fridge"),
            part("fridge", "load", catalogue="Stop lamp 21 W", circuit="fridge"),
        ],
        [
            wire(1, "battery.+", "fuse.in", size=None, circuit="fridge"),
            wire(2, "fuse.out", "guard.in", size=None, circuit="fridge"),
            wire(3, "guard.out", "fridge.+", size=None, circuit="fridge"),
            wire(4, "fridge.-", "battery.-", size=None, circuit="fridge"),
            wire(5, "guard.ground", "battery.-", size=None, circuit="fridge"),
        ],
        circuits=[
            {"id": "fridge", "name": "Fridge", "group": "accessory", "criticality": "comfort"}
        ],
    )


class NewKindTest(TestCase):
    def setUp(self) -> None:
        added = mock.patch.dict(DEVICES, {LowVoltageCutOff.kind: LowVoltageCutOff()})
        added.start()
        self.addCleanup(added.stop)
        self.build = from_document(camper())

    def test_it_is_solved_and_moves_by_itself(self) -> None:
        network = Network(size_build(self.build).build)
        full, flat = network.solve_many([State(), State(supply=Supply(11.0, 0.01))])
        self.assertTrue(full.loads["fridge"].is_on)
        self.assertAlmostEqual(full.contact_a["guard"], full.wire_a["w3"], 9)
        self.assertEqual(flat.loads["fridge"].amps, 0)
        self.assertAlmostEqual(flat.wire_a["w5"], 11.0 / 1000, 3)

    def test_its_figure_is_held_and_counts(self) -> None:
        network = Network(size_build(from_document(camper(opens_below_v=10.5))).build)
        self.assertTrue(network.solve(State(supply=Supply(11.0, 0.01))).loads["fridge"].is_on)
        with self.assertRaises(UnusableInput) as caught:
            from_document(camper(opens_below_a=10.5))
        self.assertIn("opens_below_v", str(caught.exception))

    def test_a_way_leads_through_it_where_it_is_fed_and_grounded(self) -> None:
        path = paths_of(self.build).to_load(self.build.parts["fridge"])
        self.assertIsNotNone(path)
        self.assertEqual([step.owner for step in path.feed if step.kind == "contact"], ["guard"])
        ungrounded = camper()
        ungrounded["wires"].pop()
        paths = paths_of(from_document(ungrounded))
        self.assertIsNone(paths.to_load(self.build.parts["fridge"]))

    def test_it_is_sized_with_a_fuse_and_wires(self) -> None:
        sizing = size_build(self.build)
        self.assertTrue(all(row.size for row in sizing.wires.values()))
        self.assertGreaterEqual(sizing.fuses["fuse"].rating_a, 3)
        fridge = sizing.build.parts["fridge"]
        path = paths_of(sizing.build).to_load(fridge)
        line = fall_line(sizing.build, Network(sizing.build).solve(State()), fridge, path)
        guard = next(step for step in line.steps if step.owner == "guard")
        self.assertAlmostEqual(guard.loss_v, guard.amps / 200, 6)

    def test_it_is_drawn_with_its_sign(self) -> None:
        drawing = schematic(self.build, "fridge")
        symbol = next(row for row in drawing.symbols if row.part == "guard")
        self.assertEqual(symbol.sign, GLYPH)
        sides = {port.name: port.side for port in symbol.ports}
        self.assertEqual(sides, {"in": "left", "out": "right", "ground": "right"})
        self.assertIn(GLYPH, as_svg(drawing, "Fridge"))

    def test_it_is_in_the_netlist(self) -> None:
        network = Network(size_build(self.build).build)
        lines = netlist(network, network.solve(State())).splitlines()
        at = lines.index("* contact guard")
        self.assertEqual(float(lines[at + 1].split()[-1]), 1 / 200)

    def test_it_is_written_read_and_added_by_hand(self) -> None:
        again = from_document(to_document(self.build))
        self.assertEqual(again, self.build)
        operation = {
            "op": "add_part",
            "kind": LowVoltageCutOff.kind,
            "name": "Second guard",
            "place": "bench",
            "row": None,
            "circuit": "fridge",
            "count": 1,
        }
        after = apply_operations(self.build, [operation])
        new = next(row for row in after.parts.values() if row.name == "Second guard")
        end = Terminal(new.id, "out")
        joined = apply_operations(
            after,
            [
                {
                    "op": "add_wire",
                    "from_terminal": "fuse.out",
                    "to_terminal": str(end),
                    "circuit": "fridge",
                }
            ],
        )
        self.assertIn(end, [row.to_terminal for row in joined.wires.values()])


class EveryKindTest(TestCase):
    """What a kind says of itself agrees with itself."""

    def test_branches_of_a_new_part_lie_between_its_terminals(self) -> None:
        for kind, device in DEVICES.items():
            choices = device.choices()
            new = Part("p", kind, "P", "bench", **device.fields(choices[0] if choices else None, 4))
            names = set(device.terminals(new))
            self.assertTrue(names or kind == BUTTON, kind)
            for branch in device.branches(new, Around()):
                self.assertLessEqual({branch.first, branch.last}, names, kind)
                self.assertTrue(
                    branch.siemens > 0 or branch.law or branch.kind in {"fuse", "source"}
                )
            if device.put_into:
                self.assertLessEqual(set(device.put_into), names, kind)
