"""Small builds that are hard to search: answered, or given up honestly; never answered wrongly."""

from unittest import TestCase

from circuitry.design.model import Build
from circuitry.document.reading import from_document
from circuitry.network import Network
from circuitry.reach.paths import paths_of, state_of
from circuitry.sizing import size_build
from tests.core.cars import ON_OFF, document, part, relay_parts, switch, wire

FUSE = part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10})
LAMP = part("lamp", "load", catalogue="Stop lamp 21 W")


def joined(parts: list[dict], ends: list[tuple[str, str]]) -> Build:
    """Battery, fuse and lamp with these parts and wires between ``fuse.out`` and ``lamp.+``."""
    ends = [("battery.+", "fuse.in"), *ends, ("lamp.-", "battery.-")]
    wires = [wire(number, *end) for number, end in enumerate(ends)]
    return from_document(document([FUSE, LAMP, *parts], wires))


def ladder(pairs: int, last: dict | None = None) -> Build:
    """Pairs of parallel switches one after another; ``last`` is a switch before them and after."""
    parts, ends, at = [], [], "fuse.out"
    if last:
        parts, ends, at = [last], [(at, "last.in")], "last.1"
    for number in range(pairs):
        after = f"s{number}"
        parts.append(part(after, "splice"))
        for side in ("a", "b"):
            parts.append(switch(f"{side}{number}", *ON_OFF))
            ends += [(at, f"{side}{number}.in"), (f"{side}{number}.out", f"{after}.splice")]
        at = f"{after}.splice"
    if last:
        ends.append((at, "last.2"))
        at = "last.out"
    return joined(parts, [*ends, (at, "lamp.+")])


def relay_chain(count: int) -> Build:
    """Relays of which each feeds the coil of the next."""
    parts, ends, at = [], [], "fuse.out"
    for number in range(count):
        parts += relay_parts(identity=f"r{number}")
        ends += [(at, f"r{number}.86"), (f"r{number}.85", "battery.-"), (at, f"r{number}.30")]
        at = f"r{number}.87"
    return joined(parts, [*ends, (at, "lamp.+")])


class HardBuildsTest(TestCase):
    def test_a_ladder_has_a_way_and_the_network_agrees(self) -> None:
        for pairs in (4, 14, 40):
            build = ladder(pairs)
            path = paths_of(build).to_load(build.parts["lamp"])
            assert path is not None
            reading = Network(build).solve(state_of(build, path.positions)).loads["lamp"]
            self.assertGreater(reading.volts, 6.0)
            self.assertNotIn("load-dead", {row.code for row in size_build(build).findings})

    def test_what_is_easy_is_found_by_the_fewest_moves(self) -> None:
        build = ladder(4)
        path = paths_of(build).to_load(build.parts["lamp"])
        assert path is not None
        self.assertEqual(set(path.positions.values()), {"on"})
        self.assertEqual(len(path.positions), 4)

    def test_a_search_that_gives_up_says_so_and_never_no_way(self) -> None:
        last = switch("last", ("one", [["in", "1"]]), ("two", [["2", "out"]]))
        for pairs in (3, 18):
            with self.subTest(pairs):
                codes = {row.code for row in size_build(ladder(pairs, last)).findings}
                told = codes & {"load-dead", "search-gave-up"}
                self.assertEqual(told, {"load-dead"} if pairs == 3 else {"search-gave-up"})

    def test_a_deep_chain_ends_in_an_answer(self) -> None:
        for count, told in ((30, set()), (400, {"search-gave-up"})):
            codes = {row.code for row in size_build(relay_chain(count)).findings}
            self.assertEqual(codes & {"load-dead", "search-gave-up"}, told)
