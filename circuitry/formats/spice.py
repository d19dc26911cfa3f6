"""A state of a build as a SPICE netlist, so that any circuit simulator can check a figure.

Wires, fuses, coils and closed contacts are resistors; loads are behavioural sources with the
same laws as in ``circuitry.network.laws``, in the expression syntax that SPICE 3 descends share.
"""

from dataclasses import replace

import networkx as nx

from circuitry.network.equations import Element
from circuitry.network.laws import (
    COLD_FILAMENT_RATIO,
    DRIVER_DROP_OUT_V,
    DRIVER_LOCK_OUT_V,
    FILAMENT_EXPONENT,
    LEAKAGE_S,
    LED_FORWARD_V,
    REGULATOR_KNEE_V,
    ConstantCurrent,
    ConstantPower,
    Diode,
    FanMotor,
    Filament,
    Generator,
    Law,
    LedString,
    Resistor,
    SelfHeater,
    SteadyMotor,
)
from circuitry.network.moving import alternator_share
from circuitry.network.network import Network, Solution
from circuitry.network.state import battery_supply

TIE_OHM = "1e9"


def netlist(network: Network, solution: Solution) -> str:
    """The netlist of a solved state: one element a line, the operating point asked for at the end.

    Node 0 is battery negative; the comment after each node number names its terminals.
    """
    numbers = _numbers(network)
    lines = [f"* {network.build.name}: key {solution.state.key}"]
    by_node: dict[int, list[str]] = {}
    for terminal, node in network.node.items():
        by_node.setdefault(numbers[node], []).append(str(terminal))
    lines += [f"* node {node}: {' '.join(names)}" for node, names in sorted(by_node.items())]
    wired = network.build.wired_parts()
    conducting = [
        row for row in network.conducting(solution) if row.law is None or row.owner in wired
    ]
    for number, element in enumerate(conducting, 1):
        lines += _element(number, element, numbers, solution, network)
    lines += _ties(conducting, numbers)
    if any(isinstance(row.law, Diode) for row in conducting):
        lines.append(f".model DIODE D({_diode_model(Diode())})")
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


def _diode_model(diode: Diode) -> str:
    """The figures of the diode law as those of a SPICE diode; 25.85 mV is kT/q at 300 K."""
    emission = diode.thermal_v / 0.02585
    return f"IS={diode.saturation_a!r} RS={diode.series_ohm!r} N={emission!r}"


def _numbers(network: Network) -> dict[int, int]:
    nodes = [network.reference, *(n for n in range(network.node_count) if n != network.reference)]
    return {node: number for number, node in enumerate(nodes)}


def _element(
    number: int, element: Element, numbers: dict[int, int], solution: Solution, network: Network
) -> list[str]:
    a, b = numbers[element.node_a], numbers[element.node_b]
    about = f"* {element.kind} {element.owner}"
    if element.kind == "source":
        supply = solution.state.supply or battery_supply(network.battery)
        inner = "emf"
        return [
            about,
            f"V{number} {inner} {b} DC {supply.emf_v!r}",
            f"R{number} {inner} {a} {supply.resistance_ohm!r}",
        ]
    if isinstance(element.law, Diode):
        return [about, f"D{number} {a} {b} DIODE"]
    if element.law is not None:
        law = element.law
        if isinstance(law, Generator):
            share = alternator_share(solution.state.values.get("engine_rpm", 0.0))
            law = replace(law, most_a=law.most_a * share)
        return [about, f"B{number} {a} {b} I={_expression(law, f'V({a},{b})')}"]
    if element.emf_v:
        inner = f"inner{number}"
        return [
            about,
            f"V{number} {inner} {b} DC {element.emf_v!r}",
            f"R{number} {inner} {a} {1 / element.conductance_s!r}",
        ]
    return [about, f"R{number} {a} {b} {1 / element.conductance_s!r}"]


def _expression(law: Law, v: str) -> str:
    """The current of a law as a function of the voltage written ``v``."""
    match law:
        case Filament(rated_a, test_v):
            hot_ohm = test_v / rated_a
            relative = f"pow(abs({v})/{test_v},{1 - FILAMENT_EXPONENT!r})"
            return f"{v}/({hot_ohm!r}*max({COLD_FILAMENT_RATIO!r},{relative}))"
        case ConstantPower(rated_w):
            slope = rated_w / DRIVER_DROP_OUT_V / (DRIVER_DROP_OUT_V - DRIVER_LOCK_OUT_V)
            below = f"{slope!r}*max(0,{v}-{DRIVER_LOCK_OUT_V})"
            above = f"{rated_w!r}/max({v},{DRIVER_DROP_OUT_V})"
            return f"(({v}>={DRIVER_DROP_OUT_V})?({above}):({below}))+{v}*{LEAKAGE_S}"
        case ConstantCurrent(rated_a):
            knee = REGULATOR_KNEE_V
            return f"{rated_a!r}*max(-1,min(1,{v}/{knee}))+{v}*{LEAKAGE_S}"
        case LedString(rated_a, test_v):
            slope = rated_a / (test_v - LED_FORWARD_V)
            return f"{slope!r}*max(0,{v}-{LED_FORWARD_V})+{v}*{LEAKAGE_S}"
        case FanMotor(rated_a, test_v, inrush_x):
            drop_v = test_v / inrush_x
            emf_v = test_v - drop_v
            root = f"sqrt({emf_v**2!r}+{4 * drop_v!r}*abs({v}))"
            return f"{rated_a!r}*sgn({v})*pow(2*abs({v})/({emf_v!r}+{root}),2)+{v}*{LEAKAGE_S}"
        case SteadyMotor(rated_a, test_v, inrush_x):
            drop_v = test_v / inrush_x
            return f"{rated_a!r}*max(-1,min(1,{v}/{drop_v!r}))+{v}*{LEAKAGE_S}"
        case SelfHeater(rated_a, test_v, hot_x):
            cold = 1 / hot_x
            share = f"pow({v}/{test_v},2)"
            rise = f"2*{share}/({cold!r}+sqrt({cold**2!r}+{4 * (1 - cold)!r}*{share}))"
            return f"{v}*{rated_a / test_v!r}/({cold!r}+{1 - cold!r}*({rise}))"
        case Generator(regulated_v, most_a, inner_ohm):
            asked = f"({regulated_v!r}-{v})/{inner_ohm!r}"
            return f"{v}*{LEAKAGE_S}-max(0,min({most_a!r},{asked}))"
        case Resistor(resistance_ohm, _):
            return f"{v}/{resistance_ohm!r}"
        case _:
            raise TypeError(f"no SPICE expression for {type(law).__name__}")
