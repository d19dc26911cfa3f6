"""A small circuit simulator of its own that reads netlists.

Newton's method on the voltages of all nodes and the currents of all sources, with derivatives by
differences. It shares nothing with the solver that it checks.
"""

import math
import re
from collections.abc import Callable

import numpy as np
from scipy.sparse import lil_array
from scipy.sparse.linalg import spsolve

DIODE_LEAK_S, KT_Q = 1e-9, 0.02585
BESIDE_V = 1e-6
KNOWN = {
    "pow": pow,
    "abs": abs,
    "max": max,
    "min": min,
    "exp": lambda x: math.exp(min(x, 300.0)),
    "sqrt": math.sqrt,
    "sgn": lambda x: (x > 0) - (x < 0),
}


def node_volts(text: str) -> dict[str, float]:
    """The voltage of each node of a netlist against node 0; raises ValueError for a line that it
    does not know."""
    figures = dict(re.findall(r"(IS|RS|N)=(\S+?)[ )]", text))
    elements: list[tuple[str, str, str, object]] = []
    for line in text.splitlines()[1:]:
        kind = line[:1]
        if kind in ("*", "."):
            continue
        name, a, b, *rest = line.split(None, 3)
        match kind:
            case "R":
                elements.append(("R", a, b, float(rest[0])))
            case "V":
                elements.append(("V", a, b, float(rest[0].removeprefix("DC "))))
            case "B":
                elements.append(("I", a, b, _law(rest[0], a, b)))
            case "D":
                elements.append(("I", a, b, _diode(figures)))
            case _:
                raise ValueError(f"not a line of a netlist: {name}")
    return _solved(elements)


def _law(text: str, a: str, b: str) -> Callable[[float], float]:
    body = text.removeprefix("I=").replace(f"V({a},{b})", "v")
    if "?" in body:
        condition, _, rest = body.partition("?")
        above, _, below = rest.partition(":")
        end = below.rindex(")+")
        first = condition.count("(") - condition.count(")")
        body = f"(({above}) if {condition[first:]} else ({below[:end]})){below[end + 1 :]}"
    code = compile(body, "netlist", "eval")
    return lambda v: eval(code, {**KNOWN, "v": v})


def _diode(figures: dict[str, str]) -> Callable[[float], float]:
    saturation_a, ohm = float(figures["IS"]), float(figures["RS"])
    thermal_v = float(figures["N"]) * KT_Q

    def amps(v: float) -> float:
        low, high = -1.0, max(v / ohm, 0.0) + 1.0
        for _ in range(80):
            middle = (low + high) / 2
            through = saturation_a * (math.exp(min((v - middle * ohm) / thermal_v, 300.0)) - 1)
            low, high = (middle, high) if through > middle else (low, middle)
        return low + v * DIODE_LEAK_S

    return amps


def _solved(elements: list[tuple[str, str, str, object]]) -> dict[str, float]:
    names = sorted({end for _, a, b, _ in elements for end in (a, b)} - {"0"})
    number = {name: n for n, name in enumerate(names)}
    sources = [n for n, row in enumerate(elements) if row[0] == "V"]
    size = len(names) + len(sources)
    x = np.zeros(size)
    for _ in range(200):
        matrix, left = lil_array((size, size)), np.zeros(size)

        def at(end: str, x: np.ndarray = x) -> float:
            return 0.0 if end == "0" else float(x[number[end]])

        for n, (kind, a, b, figure) in enumerate(elements):
            volts = at(a) - at(b)
            if kind == "V":
                row = len(names) + sources.index(n)
                left[row] = volts - float(figure)  # type: ignore[arg-type]
                for end, sign in ((a, 1.0), (b, -1.0)):
                    if end != "0":
                        matrix[row, number[end]] += sign
                        matrix[number[end], row] += sign
                        left[number[end]] += sign * x[row]
                continue
            if kind == "R":
                slope = 1 / float(figure)  # type: ignore[arg-type]
                amps = volts * slope
            else:
                amps = figure(volts)  # type: ignore[operator]
                slope = max((figure(volts + BESIDE_V) - amps) / BESIDE_V, 1e-9)  # type: ignore[operator]
            for end, sign in ((a, 1.0), (b, -1.0)):
                if end == "0":
                    continue
                left[number[end]] += sign * amps
                for other, way in ((a, 1.0), (b, -1.0)):
                    if other != "0":
                        matrix[number[end], number[other]] += sign * way * slope
        step = spsolve(matrix.tocsc(), -left)
        longest = np.abs(step[: len(names)]).max()
        x = x + step * min(1.0, 2.0 / max(longest, 1e-12))
        if longest < 1e-9:
            break
    return {name: float(x[number[name]]) for name in names}
