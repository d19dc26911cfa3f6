"""What the core computes of a stored build, kept by revision while the server runs.

Nothing is computed under a lock that another build would wait for: who asks for what is being
computed already waits for that, and for nothing else.
"""

import threading
from collections import OrderedDict
from collections.abc import Iterable
from concurrent.futures import Future
from itertools import accumulate

from django.db import transaction

from circuitry.budget import Budget, budget
from circuitry.design.model import Build
from circuitry.diagnosis import Predictor
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.progress import Stopped, report
from circuitry.proving import Plan, Today, plan_of
from circuitry.sizing import Sizing, carried_over, feels_the_same, size_build
from oilstone.builds import models, storage
from oilstone.memory import give_back

LEAST_KEPT, MOST_WIRES = 2, 2000
"""How many revisions are kept in any case, and of how many wires together more are: memory goes
with the wires."""
WAIT_S = 0.2
_guard = threading.Lock()
"""Held only to look something up or to keep it, never while something is computed."""
_kept: "OrderedDict[tuple[int, int], Computed]" = OrderedDict()
_sized: list[tuple[Build, Sizing]] = []
"""The newest first."""
_at_work: "list[_AtWork]" = []


class _AtWork:
    """A build that is being sized, and what will come of it."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.future: Future[Sizing] = Future()


def sized(build: Build) -> Sizing:
    """The sizing of a build; one that was asked for lately, by a preview perhaps, is kept.

    Asked for twice at once, it is computed once; while one is at work from which the sizes can be
    carried over, that is waited for. Raises UnusableInput, or Stopped.
    """
    while True:
        with _guard:
            kept = next((sizing for known, sizing in _sized if known == build), None)
            if kept is not None:
                return kept
            other = next((row for row in _at_work if _serves(row.build, build)), None)
            if other is None:
                mine = _AtWork(build)
                _at_work.append(mine)
                break
        try:
            sizing = _waited_for(other.future)
        except Stopped:
            if not other.future.done():
                raise
            continue  # whoever asked first gave up; this one did not
        except UnusableInput:
            if other.build == build:
                raise
            continue
        if other.build == build:
            return sizing
    try:
        sizing = _carried(build) or size_build(build)
    except BaseException as problem:
        mine.future.set_exception(problem)
        raise
    else:
        with _guard:
            _sized.insert(0, (build, sizing))
            del _sized[_room_for(known for known, _ in _sized) :]
        give_back()
        mine.future.set_result(sizing)
        return sizing
    finally:
        with _guard:
            _at_work.remove(mine)


def _serves(at_work: Build, build: Build) -> bool:
    """Whether what is being sized is this build, or one whose sizes it can take over."""
    return at_work == build or feels_the_same(at_work, build)


def _waited_for(work: "Future[Sizing]") -> Sizing:
    """What another request is computing; raises Stopped when this one is stopped meanwhile."""
    while True:
        try:
            return work.result(timeout=WAIT_S)
        except TimeoutError:
            report("Waiting for the same sizes")


def _carried(build: Build) -> Sizing | None:
    """The sizes of a build just before, where they must still be right."""
    with _guard:
        latest = list(_sized)
    return next((s for kept, sizing in latest if (s := carried_over(kept, sizing, build))), None)


class Computed:
    """One revision of a build, and what was asked of it so far."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self._sizing: Sizing | None = None
        self._budget: Budget | None = None
        self._plan: tuple[Today, Plan] | None = None
        self._predictor: tuple[Today, Predictor] | None = None

    @property
    def sizing(self) -> Sizing:
        """Every size with its reasons, and the findings."""
        if self._sizing is None:
            self._sizing = sized(self.build)
        return self._sizing

    @property
    def network(self) -> Network:
        """The sized build in a cold garage."""
        return self.sizing.network

    def plan(self, today: Today) -> Plan:
        """The proof of the car as it stands; the last that was written is kept."""
        kept = self._plan
        if kept is None or kept[0] != today:
            kept = self._plan = today, plan_of(self.sizing, today)
        return kept[1]

    def predictor(self, today: Today) -> Predictor:
        """What the car would show under any fault; what was worked out last is kept."""
        kept = self._predictor
        if kept is None or kept[0] != today:
            kept = self._predictor = today, Predictor(self.sizing.build, today)
        return kept[1]

    @property
    def budget(self) -> Budget:
        """What the car draws in each scenario, against alternator and battery."""
        if self._budget is None:
            self._budget = budget(self.sizing, self.network)
        return self._budget

    @property
    def planned(self) -> Plan | None:
        """The proof, where one has been written already."""
        return self._plan[1] if self._plan else None


def build_at(row: models.Build) -> Build:
    """The build of this row's revision."""
    return _at(row).build


def sizing_at(row: models.Build) -> Sizing:
    """The sizing of this row's revision."""
    return _at(row).sizing


def network_at(row: models.Build) -> Network:
    """The network of this row's revision."""
    return _at(row).network


def budget_at(row: models.Build) -> Budget:
    """The budget of this row's revision."""
    return _at(row).budget


def plan_at(row: models.Build, today: Today) -> Plan:
    """The proof of this row's revision, of the car as it stands."""
    return _at(row).plan(today)


def predictor_at(row: models.Build, today: Today) -> Predictor:
    """What the car of this row's revision would show under any fault, as it stands."""
    return _at(row).predictor(today)


def steps_at(row: models.Build) -> int | None:
    """How many steps the proof of this row's revision has, where it has been written."""
    planned = _at(row).planned
    return len(planned.steps) if planned else None


def remember(row: models.Build, build: Build) -> None:
    """Keep the build that an edit has made for its new revision."""
    _keep(row, Computed(build))


def forget(sizes: bool = True) -> None:
    """Drop what is kept by revision, where the same ids are given to other builds; and ``sizes``,
    which are right for a build whatever its id."""
    with _guard:
        _kept.clear()
        if sizes:
            _sized.clear()


def _at(row: models.Build) -> Computed:
    with _guard:
        computed = _kept.get((row.pk, row.revision))
    return computed or _keep(row, Computed(_load(row)))


def _keep(row: models.Build, computed: Computed) -> Computed:
    with _guard:
        kept = _kept.setdefault((row.pk, row.revision), computed)
        while len(_kept) > _room_for(row.build for row in reversed(_kept.values())):
            _kept.popitem(last=False)
    return kept


def _room_for(builds: Iterable[Build]) -> int:
    """How many of these are kept, the newest first."""
    wires = accumulate(len(build.wires) for build in builds)
    return max(LEAST_KEPT, sum(total <= MOST_WIRES for total in wires))


def _load(row: models.Build) -> Build:
    """Read the things of this very revision; the row is brought up to date if it is older."""
    with transaction.atomic():
        row.refresh_from_db()
        return storage.load(row)
