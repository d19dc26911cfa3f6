"""``make bench``: how long the core takes, and how that grows from the demo car to 400 loads."""

import statistics
import time
from collections.abc import Callable

from circuitry.build.model import Build
from circuitry.network import Network, State
from circuitry.network.paths import Paths, state_of
from circuitry.sizing import size_build
from demo.many_loads import many_loads
from tests.core.cars import roadster

REPEATS = 3
LARGE = 400


def main() -> None:
    """Print a table of median times in milliseconds, and each against the demo car's."""
    print(f"{'':34}{'loads':>6}{'wires':>7}{'median ms':>11}{'against demo':>14}")
    first: dict[str, float] = {}
    for name, build in (("demo car", roadster()), (f"{LARGE} loads", many_loads(LARGE))):
        loads = len(build.parts_of_kind("load"))
        for work, run in works(build):
            taken_ms = median_ms(run)
            ratio = taken_ms / first.setdefault(work, taken_ms)
            label = f"{name}: {work}"
            print(f"{label:34}{loads:6}{len(build.wires):7}{taken_ms:11.1f}{ratio:13.1f}×")


def works(build: Build) -> list[tuple[str, Callable[[], object]]]:
    """What is measured: sizing the build, and one state on the bench."""
    sized = size_build(build).build
    network = Network(sized)
    load = sized.parts_of_kind("load")[-1]
    path = Paths(sized).to_load(load)
    state = state_of(sized, path.positions) if path else State()
    return [
        ("size", lambda: size_build(build)),
        ("lay out equations", lambda: Network(sized)),
        ("solve one state", lambda: network.solve(state)),
        ("find a way to a load", lambda: Paths(sized).to_load(load)),
    ]


def median_ms(run: Callable[[], object]) -> float:
    """Median of a few runs in milliseconds."""
    taken = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        run()
        taken.append((time.perf_counter() - start) * 1000)
    return statistics.median(taken)


if __name__ == "__main__":
    main()
