"""What of the solver is compiled, asked for before anybody waits for it."""

from circuitry.bench.bench import Bench
from circuitry.bench.script import Action
from circuitry.devices.laws import compile_formulas
from circuitry.recipes.sample import bare_car
from circuitry.sizing import size_build


def compile_solver() -> None:
    """Compile the solver and the bench, or load what was compiled on this machine before."""
    compile_formulas()
    bench = Bench(size_build(bare_car()))
    bench.act(Action(0.0, "key", to="run"))
    bench.run_to(0.1)
