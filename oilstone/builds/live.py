"""Builds at the bench while the server runs: time that passes, what is done, and who looks.

Simulated time passes while somebody looks, and stands still else. What is done goes into the script
in the database at once, with the time at which it is done; now and then a snapshot does too. So
whoever comes back, or looks from another tab, finds the bench where it is.
"""

import threading
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Any

from django.db import transaction

from circuitry.bench.bench import Bench
from circuitry.bench.dealt import Judged, judge
from circuitry.bench.faults import Fault
from circuitry.bench.readings import Frame
from circuitry.bench.script import Action, action_from, as_rows, script_from
from circuitry.bench.tape import Event
from circuitry.errors import UnusableInput
from oilstone.builds import models
from oilstone.builds.results import sizing_at

MOST_GAP_S = 1.0
"""Longest time between two looks that still counts as looking."""
BUDGET_S = 0.12
"""Of the clock on the wall, that one look may take to let time pass: beyond it time is slow."""
SLICE_S = 0.1
SAVED_EVERY_S = 10.0
MARKED_EVERY_S, MOST_MARKS = 4.0, 128
MOST_TOLD = 400
MOST_BENCHES = 8
RATES = (0.0, 0.01, 0.1, 1.0, 10.0)
_guard = threading.Lock()
_live: dict[int, "Live"] = {}
_making: dict[int, threading.Lock] = {}


@dataclass(frozen=True)
class Mark:
    """Where a session was at a time, to go back to: its moment, how much had been done and told."""

    t_s: float
    moment: dict[str, Any]
    done: int
    told: int


class Live:
    """The bench of one build. All of it is used under ``lock``."""

    def __init__(self, row: models.Build) -> None:
        self.lock = threading.RLock()
        self.build_id, self.revision = row.pk, row.revision
        self.sizing = sizing_at(row)
        self.bench = Bench(self.sizing)
        self.rate = 1.0
        self.version = 0
        """Goes up whenever something other than time has changed what is to be shown."""
        self.t_s = 0.0
        self.ahead: list[Action] = []
        self.done: list[Action] = []
        self.guesses: list[Judged] = []
        self._marks: list[Mark] = []
        self._looked_s = time.monotonic()
        self._saved_s = time.monotonic()
        self._session = self._open(row)

    def _open(self, row: models.Build) -> models.BenchSession:
        """The session that is on the bench, of this revision; an older one begins anew from off."""
        session, _ = models.BenchSession.objects.get_or_create(
            build=row, name="", defaults={"revision": row.revision}
        )
        if session.revision != row.revision:
            last = row.edits.order_by("-revision").first()
            what = f"The car has changed: {last.label}" if last else "The car has changed"
            session.actions.all().delete()
            session.revision, session.at_s = row.revision, 0.0
            session.snapshot, session.snapshot_s, session.tape = None, 0.0, []
            session.save()
            self.bench.tape.append(Event(0.0, "car", f"{what}. It starts again from off"))
            return session
        try:
            self._take_up(session, session.at_s)
        except (UnusableInput, KeyError, ValueError, TypeError):
            self.bench = Bench(self.sizing)  # of another version: it begins anew
            self.ahead, self.done, self.t_s = [], [], 0.0
            session.actions.all().delete()
        return session

    def _take_up(self, session: models.BenchSession, to_s: float) -> None:
        """Bring the bench to a time of a session, from its snapshot where that is earlier."""
        actions = script_from(
            list(session.actions.values_list("row", flat=True)), self.bench.build
        ).actions
        first_s = 0.0
        if session.snapshot is not None and session.snapshot_s <= to_s:
            self.bench.restore(session.snapshot)
            self.bench.tape[:] = [Event(**{**row, "of": tuple(row["of"])}) for row in session.tape]
            first_s = session.snapshot_s
        self.done = [action for action in actions if action.at_s <= to_s]
        self.ahead = [action for action in actions if action.at_s > to_s]
        for action in self.done:
            if action.at_s > first_s:
                self.bench.act(action)
        self.bench.run(to_s)
        self.t_s = to_s

    # time

    def look(self) -> Frame:
        """Let the time pass that has passed on the wall, and show what is."""
        now_s = time.monotonic()
        gap_s = now_s - self._looked_s
        self._looked_s = now_s
        if gap_s <= MOST_GAP_S:
            self._pass(self.rate * gap_s)
        if now_s - self._saved_s > SAVED_EVERY_S:
            self.save()
        return self.bench.frame(self.t_s)

    def _pass(self, seconds: float) -> None:
        """Let simulated time pass, as far as it is computed in a moment."""
        until_s, began_s = self.t_s + seconds, time.monotonic()
        while self.t_s < until_s and time.monotonic() - began_s < BUDGET_S:
            self._pass_to(min(until_s, self.t_s + SLICE_S))

    def _pass_to(self, to_s: float) -> None:
        while self.ahead and self.ahead[0].at_s <= to_s:
            action = self.ahead.pop(0)
            self.bench.act(action)
            self.done.append(action)
            self.version += 1
        self.bench.run(to_s)
        self.t_s = to_s
        self._mark()

    def _mark(self) -> None:
        """Note the moment now and then; of many, every other one is let go."""
        last_s = self._marks[-1].t_s if self._marks else -MARKED_EVERY_S
        if self.bench.moment.t_s >= last_s + MARKED_EVERY_S:
            moment = self.bench.moment
            told = len(self.bench.tape)
            self._marks.append(Mark(moment.t_s, self.bench.snapshot(), len(self.done), told))
        if len(self._marks) > MOST_MARKS:
            self._marks = self._marks[::2]

    def step(self, seconds: float) -> None:
        """Let so much time pass at once, however long that takes."""
        self._pass_to(self.t_s + seconds)

    def go_to(self, to_s: float) -> None:
        """Go back to a time of this session, or on to one; it stands still there. What was done
        after that is done again as time runs on, until something else is done."""
        if to_s >= self.t_s:
            self._pass_to(to_s)
        else:
            self.save()
            self._go_back(to_s)
        self.rate = 0.0
        self.version += 1

    def _go_back(self, to_s: float) -> None:
        """Begin from the last mark before a time, or from off, and let time pass until then."""
        actions, tape = [*self.done, *self.ahead], self.bench.tape
        self._marks = [mark for mark in self._marks if mark.t_s <= to_s]
        self.bench = Bench(self.sizing)
        self.done, self.ahead, self.t_s = [], actions, 0.0
        if self._marks:
            mark = self._marks[-1]
            self.bench.restore(mark.moment)
            self.bench.tape[:] = tape[: mark.told]
            self.done, self.ahead = actions[: mark.done], actions[mark.done :]
            self.t_s = mark.t_s
        self._pass_to(to_s)

    # what is done

    def do(self, rows: Sequence[Any]) -> None:
        """Do things now; raises UnusableInput, and then nothing is done that comes after."""
        self.look()
        for row in rows:
            at_s = max(self.t_s, self.bench.moment.t_s)
            asked = {**row, "at_s": at_s} if isinstance(row, dict) else row
            action = action_from(asked, self.bench.build, str(asked.get("do", "action")))
            self.bench.act(action)
            self._note(action)
        self.version += 1

    def _note(self, action: Action) -> None:
        with transaction.atomic():
            if self.ahead:
                self._session.actions.filter(at_s__gt=action.at_s).delete()
                self.ahead = []
            (row,) = as_rows([action])
            models.BenchAction.objects.create(session=self._session, at_s=action.at_s, row=row)
        self.done.append(action)
        self.t_s = max(self.t_s, action.at_s)

    def guess(self, of: str | None) -> Judged:
        """Judge a guess at the fault that was dealt last, None to give up; raises UnusableInput
        where none was."""
        dealt = [row for row in self.bench.moment.faults.values() if row.blind]
        if not dealt:
            raise UnusableInput("no-fault", "guess", "No fault has been dealt. Deal one first.")
        since = [number for number, row in enumerate(self.done) if row.fault and row.fault.blind]
        judged = judge(self.bench.build, dealt[-1], of, self.done[since[-1] + 1 :])
        self.guesses.append(judged)
        if judged.was:
            self._reveal(dealt[-1])
        return judged

    def _reveal(self, fault: Fault) -> None:
        shown = {"kind": fault.kind, "of": fault.of, "other": fault.other}
        self.do([{"do": "fault", "fault": shown}])

    # sessions

    def save(self) -> None:
        """Write down where the bench stands."""
        self._saved_s = time.monotonic()
        session = self._session
        session.at_s, session.snapshot_s = self.t_s, self.bench.moment.t_s
        session.snapshot = self.bench.snapshot()
        session.tape = [asdict(event) for event in self.bench.tape[-MOST_TOLD:]]
        session.save()

    def clear(self) -> None:
        """Begin anew from off."""
        self.play([])

    def play(self, rows: Sequence[Any], ends_s: float | None = None) -> None:
        """Begin anew, and do what a script says as time runs on; raises UnusableInput."""
        script = script_from(rows, self.bench.build, ends_s)
        with transaction.atomic():
            self._session.actions.all().delete()
            models.BenchAction.objects.bulk_create(
                models.BenchAction(session=self._session, at_s=action.at_s, row=row)
                for action, row in zip(script.actions, as_rows(script.actions), strict=True)
            )
        self.bench = Bench(self.sizing)
        self._marks = []
        self.done, self.ahead, self.t_s = [], list(script.actions), 0.0
        self.guesses, self.rate = [], 1.0
        self.version += 1
        self.save()

    def keep(self, name: str) -> models.BenchSession:
        """Keep what has been done under a name; one of that name before gives way."""
        self.save()
        with transaction.atomic():
            models.BenchSession.objects.filter(build_id=self.build_id, name=name).delete()
            kept = models.BenchSession.objects.create(
                build_id=self.build_id,
                name=name,
                revision=self.revision,
                at_s=self.t_s,
                tape=[],
            )
            models.BenchAction.objects.bulk_create(
                models.BenchAction(session=kept, at_s=row["at_s"], row=row)
                for row in as_rows(self.done)
            )
        return kept

    def tell(self) -> list[dict[str, Any]]:
        """What has happened lately."""
        return [asdict(event) for event in self.bench.tape[-MOST_TOLD:]]


def live_of(row: models.Build) -> Live:
    """The bench of a build at its newest revision, or at a newer one than this row is of.

    One at a time makes it: whoever comes with an older row while it is made must not put it back,
    for then what has been done on it since would be lost.
    """
    with _guard:
        making = _making.setdefault(row.pk, threading.Lock())
    with making:
        with _guard:
            known = _live.get(row.pk)
        if known is not None and known.revision >= row.revision:
            return known
        made = Live(row)
        with _guard:
            _live.pop(row.pk, None)
            while len(_live) >= MOST_BENCHES:
                _live.pop(next(iter(_live)))
            _live[row.pk] = made
        return made


def forget() -> None:
    """Drop all benches, where the same ids are given to other builds."""
    with _guard:
        _live.clear()
        _making.clear()
