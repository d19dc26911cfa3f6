"""What is compiled, against the same by another way: dense algebra, quadrature, one at a time."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from circuitry.bench.bench import _phis
from circuitry.devices.fuse import COOLS_S, Melting
from circuitry.devices.laws import FanMotor, Filament, Lag, SteadyMotor
from circuitry.network.elimination import Elimination
from circuitry.network.lag_table import LagTable

LAGS: list[Lag] = [
    Melting("mini blade", 10.0),
    Filament(2.0, 13.5),
    Melting("mini blade", 20.0),
    FanMotor(8.0, 13.5, 4.0),
    Filament(0.4, 13.5),
    SteadyMotor(5.0, 13.5, 5.0),
]

AFTER = """
import json, sys
from pathlib import Path
from circuitry.bench.bench import Bench
from circuitry.bench.compiling import compile_solver
from circuitry.bench.script import Action
from circuitry.document.reading import read
from circuitry.sizing import size_build
def kept():
    return {path.name for path in Path(sys.argv[1]).rglob("*.nbc")}
compile_solver()
before = kept()
bench = Bench(size_build(read(Path("demo/saltmarsh-roadster.json").read_bytes())))
bench.act(Action(0.0, "key", to="run"))
bench.run_to(0.5)
told = Path(sys.argv[1]) / "told.json"
told.write_text(json.dumps([len(before), sorted(kept() - before)]))
"""


class CompilingTest(SimpleTestCase):
    def test_nothing_is_left_to_compile_when_a_builder_first_turns_the_key(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            done = subprocess.run(
                [sys.executable, "-c", AFTER, folder],
                env={**os.environ, "NUMBA_CACHE_DIR": folder},
                capture_output=True,
                text=True,
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            count, left = json.loads(Path(folder, "told.json").read_text())
        self.assertGreater(count, 15)
        self.assertEqual(left, [])


class EliminationTest(SimpleTestCase):
    @settings(max_examples=40)
    @given(st.integers(1, 12), st.integers(0, 2**32 - 1))
    def test_one_and_many_matrices_are_solved_as_dense_ones(self, size: int, seed: int) -> None:
        draw = np.random.default_rng(seed)
        first, second = draw.integers(-1, size, (2, 3 * size))
        siemens = draw.uniform(0.1, 50.0, (3 * size, 3))
        held, right = draw.uniform(0.5, 1.0, (size, 3)), draw.normal(size=(size, 3))
        pattern = Elimination(first, second, size)
        together = pattern.factors(siemens, held).solve(right)
        for number in range(3):
            dense = np.diag(held[:, number])
            for one, other, conducts in zip(first, second, siemens[:, number], strict=True):
                leaving = np.zeros(size)
                leaving[one] += one >= 0
                leaving[other] -= other >= 0
                dense += conducts * np.outer(leaving, leaving)
            expected = np.linalg.solve(dense, right[:, number])
            np.testing.assert_allclose(together[:, number], expected, rtol=1e-8, atol=1e-10)
            figures = (np.ascontiguousarray(row[:, number]) for row in (siemens, held, right))
            np.testing.assert_allclose(pattern.solved(*figures), expected, rtol=1e-8, atol=1e-10)


class StepTest(SimpleTestCase):
    def test_what_weighs_a_step_is_its_integral(self) -> None:
        for z in (-300.0, -40.0, -1.0, -1.1e-4, -0.9e-4, -1e-9, 0.0, 0.5):
            first, second = (
                quad(lambda s, z=z, by=by: np.exp(z * (1 - s)) * s**by, 0, 1, epsabs=1e-13)[0]
                for by in (0, 1)
            )
            np.testing.assert_allclose(_phis(z), (first, second), rtol=1e-7, atol=1e-11)


class LagTableTest(SimpleTestCase):
    def test_the_rates_of_all_together_are_those_of_each_alone(self) -> None:
        table = LagTable(list(enumerate(LAGS)))
        numbers = table.of_row()
        for volts, amps in ((0.0, 0.0), (12.0, 5.0), (12.0, 15.0), (13.0, 60.0), (-12.0, 1.0)):
            at = table.rest()
            at[[numbers[0], numbers[1], numbers[3]]] = 0.3, 0.8, 0.4
            rates, slopes = table.rates(at, np.full(len(LAGS), volts), np.full(len(LAGS), amps))
            for row, lag in enumerate(LAGS):
                here, drive = at[numbers[row]], volts if lag.drives == "voltage" else amps
                self.assertAlmostEqual(rates[numbers[row]], float(lag.rate(drive, here)))
                beside = float(lag.rate(drive, here + 1e-6) - lag.rate(drive, here)) / 1e-6
                self.assertAlmostEqual(
                    slopes[numbers[row]], beside, delta=1e-6 + 1e-6 * abs(beside)
                )

    def test_what_only_cools_does_so_with_its_time_constant_and_a_lamp_at_rest_stays(self) -> None:
        table, nothing = LagTable(list(enumerate(LAGS))), np.zeros(len(LAGS))
        at = table.rest()
        at[table.of_row()[0]] = 0.6
        rates, _ = table.rates(at, nothing, nothing)
        self.assertAlmostEqual(rates[table.of_row()[0]], -0.6 / COOLS_S)
        self.assertEqual(np.count_nonzero(rates), 1)
