"""Hands at the bench: each action of a script, done to the moment."""

from typing import TYPE_CHECKING

from circuitry.bench.faults import WEAK_CHARGE, Fault, said
from circuitry.bench.happening import Happening
from circuitry.bench.script import Action
from circuitry.design.logic import SPOKEN_VALUES, UNITS
from circuitry.errors import UnusableInput

if TYPE_CHECKING:
    from circuitry.bench.bench import Bench

MENDED_BY_FITTING = (
    *("blown fuse", "missing fuse", "wrong fuse"),
    *("blown lamp", "missing lamp", "wrong lamp", "missing relay"),
)


class Doing:
    """One action, done."""

    def __init__(self, bench: "Bench", action: Action) -> None:
        self._bench, self._action = bench, action
        self._moment = bench.moment
        self._tell = Happening(bench).tell

    def do(self) -> None:
        """Do it, and put it on the tape."""
        getattr(self, f"_{self._action.do}")()

    def _name(self, part: str) -> str:
        return self._bench.build.parts[part].name

    def _key(self) -> None:
        self._moment.key = str(self._action.to)
        self._tell("key", f"Key to {self._action.to}")

    def _switch(self) -> None:
        of, to = self._action.of, self._action.to
        if to is None:
            self._moment.switches.pop(of, None)
        else:
            self._moment.switches[of] = str(to)
        at = to if to is not None else "where the car puts it"
        self._tell("switch", f"{self._name(of)} to {at}", of)

    def _value(self) -> None:
        of, to = self._action.of, self._action.to
        said_of = SPOKEN_VALUES[of].capitalize()
        if to is None:
            self._moment.values.pop(of, None)
            self._tell("value", f"{said_of} as the car has it")
        else:
            self._moment.values[of] = float(to)
            self._tell("value", f"{said_of} {float(to):g} {UNITS[of]}")

    def _sender(self) -> None:
        of, to = self._action.of, self._action.to
        if to is None:
            self._moment.senders.pop(of, None)
            self._tell("value", f"{self._name(of)} as it is", of)
        else:
            self._moment.senders[of] = float(to)
            self._tell("value", f"{self._name(of)} at {float(to):g} Ω", of)

    def _pull(self) -> None:
        self._moment.pulled.add(self._action.of)
        self._tell("hand", f"{self._name(self._action.of)} pulled", self._action.of)

    def _fit(self) -> None:
        of, moment = self._action.of, self._moment
        moment.pulled.discard(of)
        moment.reset_s.pop(of, None)
        moment.parted.discard(of)
        for fault in [row for row in moment.faults.values() if row.of == of]:
            if fault.kind in MENDED_BY_FITTING:
                del moment.faults[fault.id]
        number = self._bench.rig.lag_of.get((of, ""))
        if number is not None and self._bench.build.parts[of].kind == "fuse":
            moment.at[number] = 0.0
        part = self._bench.build.parts[of]
        if self._action.to is not None and float(self._action.to) != part.number("rating_a", 0):
            wrong = Fault("wrong fuse", of, f"{float(self._action.to):g}")
            moment.faults[wrong.id] = wrong
            self._tell("hand", f"{part.name} fitted with {float(self._action.to):g} A", of)
        else:
            self._tell("hand", f"{part.name} fitted", of)

    def _reset(self) -> None:
        of, moment = self._action.of, self._moment
        held = [pair for pair in moment.tripped if pair[0] == of]
        for pair in held:
            del moment.tripped[pair]
            moment.peaks.pop(f"tries {pair}", None)
        if of in moment.parted and (self._bench.build.parts[of].catalogue or "").startswith(
            "breaker"
        ):
            moment.parted.discard(of)
            moment.reset_s.pop(of, None)
            moment.at[self._bench.rig.lag_of[of, ""]] = 0.0
            held.append((of, ""))
        if not held:
            raise UnusableInput(
                "nothing-tripped", of, f"Nothing of “{self._name(of)}” has tripped."
            )
        self._tell("hand", f"{self._name(of)} reset", of)

    def _fault(self) -> None:
        fault = self._action.fault
        assert fault is not None
        self._moment.faults[fault.id] = fault
        if fault.kind == "weak battery":
            self._moment.charge[:1] = self._moment.charge[:1].clip(0, WEAK_CHARGE)
        if fault.blind:
            self._tell("fault", "A fault is in the car")
        else:
            self._tell("fault", f"Fault: {said(self._bench.build, fault)}", fault.of)

    def _mend(self) -> None:
        of, moment = self._action.of, self._moment
        if of in ("", "all"):
            moment.faults.clear()
            moment.parted.clear()
            moment.tripped.clear()
            moment.reset_s.clear()
            for number in self._bench.rig.fuse_lags.tolist():
                moment.at[number] = 0.0
            self._tell("fault", "Everything mended")
            return
        if of not in moment.faults:
            raise UnusableInput("no-fault", of, f"No fault “{of}” is in the car.")
        fault = moment.faults.pop(of)
        self._tell("fault", f"Mended: {said(self._bench.build, fault)}", fault.of)

    def _meter(self) -> None:
        of, meter = self._action.of, self._action.meter
        self._moment.peaks.pop(of, None)
        if of == "lead":
            self._moment.parted.discard("lead")
            self._moment.lead_at = 0.0
        if meter is None:
            self._moment.meters.pop(of, None)
        else:
            self._moment.meters[of] = meter

    def _lose(self) -> None:
        self._moment.lost.add(self._action.of)
        self._tell("bus", f"{self._lost_name()} lost", self._action.of)

    def _find(self) -> None:
        self._moment.lost.discard(self._action.of)
        self._tell("bus", f"{self._lost_name()} works again", self._action.of)

    def _lost_name(self) -> str:
        part = self._bench.build.parts.get(self._action.of)
        circuit = self._bench.build.circuits.get(self._action.of)
        return part.name if part else circuit.name if circuit else self._action.of
