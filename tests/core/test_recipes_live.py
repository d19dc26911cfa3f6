"""The truth tables of recipes once more, through time: each car is powered up, its switches are
worked, and what its loads do is watched for a second and a half."""

import numpy as np

from circuitry.bench.bench import Bench
from circuitry.bench.script import script_from
from circuitry.devices import switches_of
from circuitry.network import Network
from circuitry.sizing import size_build
from tests.core import test_recipe_truth as steady

FIRST_S, EVERY_S, LAST_S = 0.7, 0.07, 2.2
"""From when its lamps have settled and boxes are awake, over two beats of a flasher."""
SEEN_PERCENT, DIM_PERCENT = 2.0, 40.0


class Live:
    """A case whose cars are watched at the bench instead of solved."""

    def alive(self, network: Network, key: str = "run", rpm: float = 0.0, **moved: str) -> set[str]:
        sizing = network.build.derived.get("sizing") or size_build(network.build)
        bench = Bench(sizing)
        positions = {
            part.id: part.contacts.positions[0].name
            for part in switches_of(sizing.build)
            if part.contacts is not None and part.kind != "key switch"
        }
        positions |= {name.replace("_", "-"): at for name, at in moved.items()}
        rows = [
            {"at_s": 0.0, "do": "value", "of": "engine_rpm", "to": rpm},
            *({"at_s": 0.0, "do": "switch", "of": of, "to": to} for of, to in positions.items()),
            {"at_s": 0.0, "do": "key", "to": key},
        ]
        for action in script_from(rows, sizing.build).actions:
            bench.act(action)
        times = np.arange(FIRST_S, LAST_S, EVERY_S)
        frames = [bench.frame(float(at_s)) for at_s in times]
        percent = np.array([frame.load_percent for frame in frames]).T
        volts = np.array([frame.load_v for frame in frames]).T
        words = zip(sizing.build.parts_of_kind("load"), percent, volts, strict=True)
        said = ((part.id, _word(shown, across)) for part, shown, across in words)
        return {name if word == "on" else f"{name} {word}" for name, word in said if word != "off"}


def _word(percent: np.ndarray, volts: np.ndarray) -> str:
    lit = percent >= SEEN_PERCENT
    if not lit.any():
        return "off"
    if np.count_nonzero(lit[1:] != lit[:-1]) >= 2:
        return "flashing"
    brightest = int(percent.argmax())
    still_rises = percent[-1] > 1.1 * percent[0]
    if percent[brightest] < DIM_PERCENT and not still_rises:
        return "dim"
    return "reverse" if volts[brightest] < 0 else "on"


class LampsLiveTest(Live, steady.LampTruthTest):
    pass


class TurnLiveTest(Live, steady.TurnTruthTest):
    test_led_lamps_flash_fast_until_they_are_cured = None


class MotorsLiveTest(Live, steady.MotorTruthTest):
    test_blower_runs_faster_at_each_step = None


class LampsOnModulesLiveTest(Live, steady.LampTruthOnModulesTest):
    pass


class TurnOnModulesLiveTest(Live, steady.TurnTruthOnModulesTest):
    pass


class MotorsOnModulesLiveTest(Live, steady.MotorTruthOnModulesTest):
    pass


class CabinLiveTest(Live, steady.CabinTruthTest):
    pass


class ExtrasLiveTest(Live, steady.ExtrasTruthTest):
    pass


class ControlLiveTest(Live, steady.ControlTruthTest):
    pass


class SupplyLiveTest(Live, steady.SupplyTruthTest):
    pass


class TrailerLiveTest(Live, steady.TrailerTruthTest):
    pass


class GlowPlugLiveTest(Live, steady.GlowPlugTruthTest):
    pass


class HeavyLoadLiveTest(Live, steady.HeavyLoadTruthTest):
    pass


class SourceLiveTest(Live, steady.SourceTruthTest):
    pass


class EngineRoomLiveTest(Live, steady.EngineRoomTruthTest):
    pass


class DrivetrainLiveTest(Live, steady.DrivetrainTruthTest):
    pass
