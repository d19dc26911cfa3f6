"""Faults dealt at the bench and looked for by the finder: what it took, for tests and measures."""

import random
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from circuitry.bench.bench import Bench
from circuitry.bench.dealt import HARD, deal
from circuitry.bench.faults import KINDS, Fault, can_have, miswired, others_for
from circuitry.bench.meters import JUMPER_OHM, MOST_A
from circuitry.design.model import Terminal
from circuitry.devices.load import output_word
from circuitry.diagnosis import Finder, Predictor, Seen, Test
from circuitry.diagnosis.seen import ALIVE, DEAD, DIM, WORKS, readings
from circuitry.diagnosis.suspects import unlike
from circuitry.diagnosis.tests import (
    PROBE_MIN,
    SET_UP_MIN,
    THE_SAME,
    minutes_to,
    shown_of,
    shows,
)
from circuitry.network.network import OFF_PERCENT
from circuitry.proving import Plan, Step, Today, plan_of
from circuitry.proving.situation import Situation
from circuitry.reach.paths import paths_of
from circuitry.sizing import Sizing
from circuitry.sizing.states import starts
from tests.core.benches import as_built, do

SETTLES_S, LOOKS_S, EVERY_S, STARTS_S = 3.0, 1.5, 0.15, 0.75
ALIVE_PERCENT, COASTS = 8.0, 0.97
"""What glows by a leak nobody calls alive; nor what runs down."""
MOST_TESTS = 14
GUESS_MIN = 3.0
"""What it takes to mend what was guessed and to try it."""


@dataclass(frozen=True)
class Game:
    """A fault, whether it could be seen, which one was found if any, in how many tests and minutes,
    and how many minutes the fixed order from feed to ground takes."""

    fault: Fault
    seen: bool
    found: Fault | None
    tests: int
    minutes: float
    fixed: float


class Dealer:
    """One car, sound, with what was predicted of it kept from game to game."""

    def __init__(self, sizing: Sizing) -> None:
        self.sizing, self.build = sizing, sizing.build
        self.plan: Plan = plan_of(sizing)
        self.predictor = Predictor(self.build, Today())
        self.steps: dict[Situation, list[Step]] = {}
        for step in self.plan.steps:
            tried = step.section == "functions" and step.situation is not None and step.looks
            running = step.situation and any(name == "engine_rpm" for name, _ in step.situation.at)
            if (
                tried
                and not running
                and not step.id.startswith(("works/crank/", "works/isolator/"))
            ):
                assert step.situation is not None
                self.steps.setdefault(step.situation, []).append(step)
        self.starters = {load.id for load in self.build.parts_of_kind("load") if starts(load)}
        self.situations: Mapping[Situation, str] = {
            situation: rows[0].title for situation, rows in self.steps.items()
        }

    def situation(self, title: str) -> Situation:
        """The situation of the step of this title."""
        return next(
            situation
            for situation, rows in self.steps.items()
            if title in {step.title for step in rows}
        )

    def dealt(self, seed: str) -> Fault:
        """A fault by a seed, of any hardness."""
        return deal(self.build, random.Random(seed).choice(HARD), seed)

    def play(self, faults: Sequence[Fault]) -> Game:
        """Look for faults: the first that is found ends it."""
        table = Table(self, faults)
        observed = table.walk()
        if not any(row.word != WORKS for row in observed):
            return Game(faults[0], False, None, 0, 0.0, 0.0)
        finder = Finder(self.predictor, self.situations)
        finder.observe(*observed)
        tests, minutes = 0, 0.0
        found: Fault | None = None
        both = ("short to wire", "lamps exchanged")
        wanted = {fault.other: fault for fault in faults if fault.kind in both}
        wanted |= {fault.of: fault for fault in faults}
        while tests < MOST_TESTS and not found:
            best = finder.best(1)
            if finder.is_sure() or not best:
                guess = finder.ranked(1)[0].of
                found = wanted.get(guess)
                if found is None:
                    finder.ruled_out(guess)
                    tests += 1
                    minutes += GUESS_MIN
                continue
            test = best[0][0]
            tests += 1
            minutes += test.minutes
            table.make(finder, test)
        amiss = next(row for row in observed if row.word != WORKS)
        return Game(faults[0], True, found, tests, minutes, self._fixed(amiss.load, wanted))

    def play_on(self, faults: Sequence[Fault]) -> bool | None:
        """Look for several faults, each mended as it is found; whether all that could be seen were,
        None where none could."""
        left, any_seen = list(faults), False
        while left:
            game = self.play(left)
            if not game.seen:
                break
            any_seen = True
            if game.found is None:
                return False
            left.remove(game.found)
        return True if any_seen else None

    def _fixed(self, load: str, wanted: Collection[str]) -> float:
        """Minutes of probing every point from the feed to the load and on to ground, up to the
        fault."""
        path = self._path(load)
        minutes = 0.0
        for owner, terminal in path:
            part = self.build.parts[terminal.part]
            minutes += minutes_to(self.build, part) + PROBE_MIN + SET_UP_MIN
            if owner in wanted:
                break
        return minutes

    def _path(self, load: str) -> list[tuple[str, Terminal]]:
        path = paths_of(self.build).to_load(self.build.parts[load])
        return [(step.owner, step.to_terminal) for step in path.steps] if path else []


class Table:
    """A car at the bench with faults in it that nobody has seen yet."""

    def __init__(self, dealer: Dealer, faults: Sequence[Fault]) -> None:
        self.dealer, self.faults = dealer, faults
        self.bench = Bench(dealer.sizing)
        as_built(self.bench)
        for fault in faults:
            do(self.bench, 0.0, "fault", fault=replace(fault, blind=False).as_row())
        self._at: Situation | None = None
        self._begun: list[Sequence[float]] = []
        """What loads did just after the car was brought into its situation."""

    def walk(self) -> list[Seen]:
        """What every function does: tried where the faults make a difference, taken for sound
        elsewhere; fuses that part on the way stay so."""
        dealer, felt = self.dealer, self._felt()
        observed: list[Seen] = []
        for row in felt:
            observed += self.look(row)
            if any(seen.word == ALIVE and seen.load in dealer.starters for seen in observed):
                return observed  # nobody walks on beside a car that cranks by itself
        parted = set(self.bench.moment.parted)
        for row in dealer.situations:
            if row in felt:
                continue
            if any(self._carries(row, fuse) for fuse in parted):
                observed += self.look(row)
            else:
                observed += [Seen(row, load, WORKS) for load in self._looked_at(row)]
        return observed

    def _felt(self) -> list[Situation]:
        """The situations in which the faults make any difference."""
        predictor = self.dealer.predictor
        numbers = predictor.numbers(self.faults).tolist()
        return [
            row for row in self.dealer.situations if any(predictor.is_felt(row, n) for n in numbers)
        ]

    def _carries(self, situation: Situation, fuse: str) -> bool:
        predicted = self.dealer.predictor.predict(situation)
        rows = self.dealer.predictor.network.rows_of[fuse]
        return any(abs(predicted.sound.operating.element_a[row]) > 0.02 for row in rows)

    def _looked_at(self, situation: Situation) -> list[str]:
        """The loads that a builder is asked to look at there."""
        looks = (look for step in self.dealer.steps.get(situation, ()) for look in step.looks)
        return list(dict.fromkeys(look.load for look in looks if look.load))

    def put(self, situation: Situation) -> None:
        """Bring the car into a situation, from whatever it was in."""
        bench = self.bench
        if self._at == situation:
            return
        at_s = bench.moment.t_s
        bench.moment.travels |= dict.fromkeys(bench.moment.travels, 0.5)  # put half way by hand
        if self._at is not None:
            for name, _ in sorted(self._at.at):
                do(bench, at_s, "switch" if name in bench.build.parts else "value", name, None)
            for part in sorted(self._at.out - situation.out - bench.moment.parted):
                do(bench, at_s, "fit", part)  # a fuse that had blown is left out
        do(bench, at_s, "meter", "2", meter=None)
        do(bench, at_s, "meter", "lead", meter=None)
        for part in sorted(situation.out - bench.moment.pulled):
            do(bench, at_s, "pull", part)
        for red, black, ohm in situation.joined:
            ends = {"red": str(bench.build.lands(red)), "black": str(bench.build.lands(black))}
            lamp = {"kind": "test lamp 21 W", **ends}
            jumper = {"kind": "fused jumper", "limit_a": MOST_A, **ends}
            jumped = ohm == JUMPER_OHM
            do(bench, at_s, "meter", "lead" if jumped else "2", meter=jumper if jumped else lamp)
        do(bench, at_s, "key", to=situation.key)
        for name, position in sorted(situation.at):
            if name in bench.build.parts:
                do(bench, at_s, "switch", name, position)
            else:
                do(bench, at_s, "value", name, float(position))
        begins_s = bench.moment.t_s
        for number in range(int(STARTS_S / EVERY_S)):  # what moves for a moment, and then stands
            self._begun.append(bench.frame(begins_s + number * EVERY_S).load_percent)
        bench.run(begins_s + SETTLES_S)
        self._at = situation

    def look(self, situation: Situation, *more: str) -> list[Seen]:
        """What loads do in a situation, over a second and a half; ``more`` are others to look
        at."""
        self._begun.clear()
        self.put(situation)
        bench = self.bench
        loads = [part.id for part in bench.build.parts_of_kind("load")]
        start_s = bench.moment.t_s
        frames = [
            bench.frame(start_s + number * EVERY_S).load_percent
            for number in range(int(LOOKS_S / EVERY_S))
        ]
        predictor = self.dealer.predictor
        sound = predictor.sound_percent(predictor.predict(situation))
        found = []
        asked = {*self._looked_at(situation), *more}
        for load in loads:
            shown = [frame[loads.index(load)] for frame in frames]
            expected = abs(float(sound[predictor.load_at[load]]))
            runs_down = shown[-1] < COASTS * shown[0] and shown[-1] == min(shown)
            turns = output_word(bench.build.parts[load]) == "speed"
            if expected >= OFF_PERCENT and runs_down and turns and shown[0] < expected / 2:
                word = DEAD  # its fuse has just blown
            elif expected >= OFF_PERCENT:
                if load in bench.rig.around.travels:
                    shown += [frame[loads.index(load)] for frame in self._begun]
                most = max(shown)
                word = DEAD if most < OFF_PERCENT else DIM if most < expected / 2 else WORKS
            else:
                word = ALIVE if max(shown) >= ALIVE_PERCENT and not runs_down else WORKS
            heard = word == ALIVE and load in self.dealer.starters
            if load in asked or heard:
                found.append(Seen(situation, load, word))
        return found

    def make(self, finder: Finder, test: Test) -> None:
        """Make a test on the bench and tell the finder."""
        if test.probe is not None:
            finder.read(test, self._read(test))
            return
        if test.kind == "see":
            assert test.situation is not None
            (load,) = test.things
            seen = self.look(test.situation, load)
            finder.looked(test, next(row.word for row in seen if row.load == load))
            return
        if test.kind == "refit":
            self._refit(test.things[0])
            blows = test.things[0] in self.bench.moment.parted
            finder.looked(test, "blows again" if blows else "holds")
            return
        parted = frozenset(self.bench.moment.parted)
        if test.kind == "move":
            finder.looked(test, self._move(test, parted))
            return
        finder.looked(test, shown_of(test, self.bench.build, self.faults, parted))

    def _move(self, test: Test, parted: frozenset[str]) -> str:
        """What comes or goes as it is moved: often enough, by the luck of the deal."""
        assert test.situation is not None
        predictor = self.dealer.predictor
        for fault in self.faults:
            (number,) = predictor.numbers([fault]).tolist()
            lucky = random.Random(f"{fault} {test.id}").random() < test.tells
            if lucky and predictor.is_felt(test.situation, number):
                return shows(test, fault, parted)
        return THE_SAME

    def _read(self, test: Test) -> float | None:
        assert test.situation is not None
        assert test.probe is not None
        self.put(test.situation)
        bench, probe = self.bench, test.probe
        lands = bench.build.lands
        assert probe.red is not None
        assert probe.black is not None
        ends = {"red": str(lands(probe.red)), "black": str(lands(probe.black))}
        at_s = bench.moment.t_s
        do(bench, at_s, "meter", "1", meter={"kind": "voltmeter", **ends})
        return max(
            (
                value
                for number in range(int(LOOKS_S / EVERY_S))
                if (value := bench.frame(at_s + number * EVERY_S).meters["1"].value) is not None
            ),
            default=None,
            key=abs,
        )

    def _refit(self, fuse: str) -> None:
        """A good fuse, and everything switched on as before until it blows."""
        do(self.bench, self.bench.moment.t_s, "fit", fuse)
        for fault in self.faults:
            if fault.of == fuse and fault.id in self.bench.moment.faults:  # a good one in its place
                do(self.bench, self.bench.moment.t_s, "mend", fault.id)
        self._at = None
        for situation in self._felt():
            if fuse not in self.bench.moment.parted:
                self.put(situation)


def caught(dealer: Dealer, fault: Fault) -> str:
    """The step of the plan that a fault fails, by its title; empty where it passes all: wires and
    pins by their ohms, rings, fuses and switches by hand, all else by what the network shows."""
    plan, build = dealer.plan, dealer.build
    by_hand = {
        "wrong stud": lambda: f"cold/rings/{build.wires[fault.of].to_terminal.part}",
        "missing ground": lambda: f"cold/rings/{fault.of}",
        "missing fuse": lambda: f"power/fuse/{fault.of}",
        "wrong fuse": lambda: f"power/fuse/{fault.of}",
        "stuck switch": lambda: f"loom/control/{fault.of}",
        "stand-in switch": lambda: f"loom/control/{fault.of}",
        "out of step": lambda: f"works/park/{fault.of}",
    }
    if fault.kind in by_hand:
        name = by_hand[fault.kind]()
        title = next((step.title for step in plan.steps if step.id == name), "")
        if title:
            return title
    if fault.kind in ("open wire", "bad joint", "swapped pins", "wrong plug", "coil reversed"):
        return _by_ohms(plan, dealer, fault)
    (number,) = dealer.predictor.numbers([fault]).tolist()
    for step in plan.steps:
        if step.situation is None or step.section not in ("functions", "first power", "parked"):
            continue
        if step.id.startswith("works/charging/"):
            if fault.kind == "dead alternator":
                return step.title
            continue
        if _fails(dealer, step, number):
            return step.title
    return ""


def _by_ohms(plan: Plan, dealer: Dealer, fault: Fault) -> str:
    """The continuity step that a wire with more ohms, or with its ends elsewhere, fails."""
    moved = miswired(dealer.build, [fault]).wires
    for step in plan.steps:
        for row in step.readings if step.section == "loom" else ():
            wire = row.id.removeprefix("ohms/")
            if wire not in dealer.build.wires:
                continue
            ohm = {"open wire": None, "bad joint": (row.band.expected or 0) + 2.0}.get(fault.kind)
            elsewhere = moved[wire] != dealer.build.wires[wire]
            if (wire == fault.of or elsewhere) and row.band.verdict(ohm) != "in band":
                return step.title
    return ""


def _fails(dealer: Dealer, step: Step, number: int) -> bool:
    """Whether a step is seen or measured otherwise than it should be under a fault."""
    assert step.situation is not None
    predictor = dealer.predictor
    numbers = np.array([number])
    predicted = predictor.predict(step.situation, [number])
    at = predicted.of.get(number)
    if at is None:
        return False
    if predicted.parted[at]:
        return True
    sound = predictor.sound_percent(predicted)
    for look in step.looks:
        if look.load is None:
            continue
        load = predictor.load_at[look.load]
        right, shown = abs(float(sound[load])), abs(float(predicted.percent[at, load]))
        if (right < OFF_PERCENT) != (shown < OFF_PERCENT) or shown < right / 2:
            return True
    for row in step.readings:
        if row.probe.kind in ("volts", "amps", "draw"):
            value = float(readings(predictor, step.situation, row.probe, numbers)[0])
            if row.band.verdict(None if value != value else value) != "in band":
                return True
    return False


def one_of_each_kind(dealer: Dealer, seed: str, each: int) -> list[Fault]:
    """Faults of every kind that the car can have, so many of each; not those that change nothing,
    such as a ground wire that touches ground or a lamp like the right one."""
    grounded = paths_of(dealer.build).grounded
    lands = dealer.build.lands
    at_ground = {
        wire.id
        for wire in dealer.build.wires.values()
        if {lands(wire.from_terminal), lands(wire.to_terminal)} <= set(grounded)
    }
    draw = random.Random(seed)
    found = []
    for kind in KINDS:
        things = [name for name, _ in can_have(dealer.build, kind)]
        for of in draw.sample(things, min(each, len(things))):
            others = list(others_for(dealer.build, kind, of))
            if kind == "wrong lamp":
                others = unlike(dealer.build, of, others)
            other = draw.choice(others) if others else ""
            touches = kind in ("short to ground", "short to wire", "chafe")
            if not (touches and of in at_ground and (not other or other in at_ground)):
                found.append(Fault(kind, of, other))
    return found
