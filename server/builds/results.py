"""What the core computes of a stored build, kept by revision while the server runs."""

from functools import lru_cache

from django.db import transaction

from circuitry.build.model import Build
from circuitry.network import Network
from circuitry.network.paths import Paths
from circuitry.sizing import Sizing, size_build
from server.builds import models, storage

KEPT = 16


def build_at(row: models.Build) -> Build:
    """The build of this row's revision."""
    return _build(row.pk, row.revision)


def sizing_at(row: models.Build) -> Sizing:
    """The sizing of this row's revision."""
    return _sizing(row.pk, row.revision)


def network_at(row: models.Build) -> Network:
    """The network of this row's revision, sized, in a cold garage."""
    return _network(row.pk, row.revision)


def paths_at(row: models.Build) -> Paths:
    """The searchable paths of this row's revision, sized."""
    return _paths(row.pk, row.revision)


def forget() -> None:
    """Drop everything kept: for tests that give the same ids to other builds."""
    for kept in (_build, _sizing, _network, _paths):
        kept.cache_clear()


@lru_cache(maxsize=KEPT)
def _build(build_id: int, revision: int) -> Build:
    with transaction.atomic():
        row = models.Build.objects.get(pk=build_id)
        if row.revision != revision:
            raise models.Build.DoesNotExist
        return storage.load(row)


@lru_cache(maxsize=KEPT)
def _sizing(build_id: int, revision: int) -> Sizing:
    return size_build(_build(build_id, revision))


@lru_cache(maxsize=KEPT)
def _network(build_id: int, revision: int) -> Network:
    return Network(_sizing(build_id, revision).build)


@lru_cache(maxsize=KEPT)
def _paths(build_id: int, revision: int) -> Paths:
    return Paths(_sizing(build_id, revision).build)
