"""What the core computes of a stored build, kept by revision while the server runs."""

import threading
from collections import OrderedDict, deque
from functools import cached_property

from django.db import transaction

from circuitry.build.model import Build
from circuitry.network import Network
from circuitry.sizing import Sizing, carried_over, size_build
from server.builds import models, storage

KEPT = 16
LATEST = 2
_computing = threading.RLock()
_kept: "OrderedDict[tuple[int, int], Computed]" = OrderedDict()
_sized: "deque[tuple[Build, Sizing]]" = deque(maxlen=KEPT)


def sized(build: Build) -> Sizing:
    """The sizing of a build; one that was asked for lately, by a preview perhaps, is kept."""
    with _computing:
        sizing = next((sizing for kept, sizing in _sized if kept == build), None)
        if sizing is None:
            sizing = _carried(build) or size_build(build)
            _sized.appendleft((build, sizing))
        return sizing


def _carried(build: Build) -> Sizing | None:
    """The sizes of a build just before, where they must still be right."""
    latest = [(kept, sizing) for kept, sizing in _sized if kept.name == build.name][:LATEST]
    return next((s for kept, sizing in latest if (s := carried_over(kept, sizing, build))), None)


class Computed:
    """One revision of a build, and what was asked of it so far."""

    def __init__(self, build: Build) -> None:
        self.build = build

    @cached_property
    def sizing(self) -> Sizing:
        """Every size with its reasons, and the findings."""
        return sized(self.build)

    @cached_property
    def network(self) -> Network:
        """The sized build in a cold garage."""
        return Network(self.sizing.build)


def build_at(row: models.Build) -> Build:
    """The build of this row's revision."""
    return _at(row).build


def sizing_at(row: models.Build) -> Sizing:
    """The sizing of this row's revision; asked for twice at once, it is computed once."""
    with _computing:
        return _at(row).sizing


def network_at(row: models.Build) -> Network:
    """The network of this row's revision."""
    with _computing:
        return _at(row).network


def remember(row: models.Build, build: Build) -> None:
    """Keep the build that an edit has made for its new revision."""
    _keep(row, Computed(build))


def forget() -> None:
    """Drop everything kept: for tests that give the same ids to other builds."""
    with _computing:
        _kept.clear()
        _sized.clear()


def _at(row: models.Build) -> Computed:
    with _computing:
        computed = _kept.get((row.pk, row.revision))
        return computed or _keep(row, Computed(_load(row)))


def _keep(row: models.Build, computed: Computed) -> Computed:
    with _computing:
        _kept[row.pk, row.revision] = computed
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return computed


def _load(row: models.Build) -> Build:
    """Read the things of this very revision; the row is brought up to date if it is older."""
    with transaction.atomic():
        row.refresh_from_db()
        return storage.load(row)
