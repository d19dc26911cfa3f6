"""A state of a build as a SPICE netlist, so that any circuit simulator can check a figure.

Wires, fuses, coils and closed contacts are resistors; loads are behavioural sources with the
same laws as in ``circuitry.devices.laws``, in the expression syntax that SPICE 3 descends share.
"""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import networkx as nx

from circuitry.bench.bench import Bench
from circuitry.devices.battery import battery_supply
from circuitry.devices.given import share_given
from circuitry.devices.laws import Law
from circuitry.network.equations import Element
from circuitry.network.network import Network, Solution

TIE_OHM = "1e9"


def netlist(network: Network, solution: Solution) -> str:
    """The netlist of a solved state: one element a line, the operating point asked for at the end.

    Node 0 is battery negative; the comment after each node number names its terminals.
    """
    supply = solution.state.supply or battery_supply(network.battery)
    conducting = [
        replace(row, conductance_s=1 / supply.resistance_ohm, emf_v=supply.emf_v)
        if row.kind == "source"
        else replace(row, law=_limited(row.law, solution.state.values))
        for row in network.conducting(solution)
    ]
    return _text(network, f"key {solution.state.key}", conducting)


def instant_netlist(bench: Bench) -> str:
    """The netlist of the instant at which a bench stands: what settles with time as it is held
    there, faults and meters as they are joined."""
    network = bench.rig.network
    conducting = bench.elements_now()
    return _text(network, f"at {bench.moment.t_s:.6f} s", conducting)


def _limited(law: Law | None, values: Mapping[str, float]) -> Law | None:
    return law.limited(share_given(law.goes_with, values)) if law is not None else None


def _text(network: Network, when: str, elements: Sequence[Element]) -> str:
    numbers = _numbers(network)
    lines = [f"* {network.build.name}: {when}"]
    by_node: dict[int, list[str]] = {}
    for terminal, node in network.node.items():
        by_node.setdefault(numbers[node], []).append(str(terminal))
    lines += [f"* node {node}: {' '.join(names)}" for node, names in sorted(by_node.items())]
    wired = network.build.wired_parts()
    conducting = [row for row in elements if row.law is None or row.owner in wired]
    for number, element in enumerate(conducting, 1):
        lines += _element(number, element, numbers)
    lines += _ties(conducting, numbers)
    models = dict.fromkeys(row.law.model() for row in conducting if row.law)
    lines += [model for model in models if model]
    return "\n".join([*lines, ".op", ".end", ""])


def _ties(conducting: list[Element], numbers: dict[int, int]) -> list[str]:
    """A resistor to ground for each island that nothing joins to it: a simulator cannot say what
    voltage it floats at, and this one says nothing of it either."""
    joined: nx.Graph[int] = nx.Graph()
    joined.add_node(0)
    joined.add_edges_from((numbers[row.node_a], numbers[row.node_b]) for row in conducting)
    islands = (min(island) for island in nx.connected_components(joined) if 0 not in island)
    return [
        line
        for number, node in enumerate(sorted(islands), 1)
        for line in ("* ties down what floats", f"RTIE{number} {node} 0 {TIE_OHM}")
    ]


def _numbers(network: Network) -> dict[int, int]:
    nodes = [network.reference, *(n for n in range(network.node_count) if n != network.reference)]
    return {node: number for number, node in enumerate(nodes)}


def _element(number: int, element: Element, numbers: dict[int, int]) -> list[str]:
    a, b = numbers[element.node_a], numbers[element.node_b]
    about = f"* {element.kind} {element.owner}"
    if element.law is not None:
        return [about, element.law.netlist(str(number), str(a), str(b))]
    if element.emf_v:
        inner = "emf" if element.kind == "source" else f"inner{number}"
        return [
            about,
            f"V{number} {inner} {b} DC {element.emf_v!r}",
            f"R{number} {inner} {a} {1 / element.conductance_s!r}",
        ]
    return [about, f"R{number} {a} {b} {1 / element.conductance_s!r}"]
