"""A d.c. converter: the source of the 12 V side where no engine turns an alternator."""

from collections.abc import Iterable, Iterator, Sequence

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import BLADE, STUD, Around, Branch, Device, Figure
from circuitry.devices.electronics import INPUT_OHM
from circuitry.devices.laws import Converter as ConverterLaw
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, awake, nodes

GIVING = "giving"
USUAL_A = 100.0
REGULATED_V = 13.8


class Converter(Device):
    """It gives a regulated voltage while its enable is fed; its high-voltage side is no part of
    what is planned here."""

    kind = "converter"
    figures = (
        Figure("rated_a", "rating", "A", USUAL_A),
        Figure("regulated_v", "regulated to", "V", REGULATED_V),
    )
    glyph = "M0 5 h4 m12 0 h4 M4 0 h12 v10 h-12 z M4 10 l12 -10"

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "+", "-", "enable"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        rated_a = part.number("rated_a", USUAL_A)
        law = ConverterLaw(part.number("regulated_v", REGULATED_V), rated_a)
        yield Branch("converter", "+", "-", law=law, position=GIVING)
        yield Branch("electronics", "enable", "-", 1 / INPUT_OHM)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield _Giving(parts, node)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[BLADE if name == "enable" else STUD]

    def is_left(self, part: Part, name: str) -> bool:
        return name == "enable"


class _Giving(Mover):
    """Give while the enable is fed."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        self.positions = [(part.id, GIVING) for part in parts]
        self._enable, self._minus = nodes(parts, "enable", node), nodes(parts, "-", node)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        return awake(volts[self._enable] - volts[self._minus], closed)
