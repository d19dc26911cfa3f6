"""Long work says how far it is, and stops when whoever waits for it asks.

The work calls ``report`` where it can be stopped without harm. Who waits hands it a function by
``watched``; nobody needs to.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

Item = TypeVar("Item")
Watch = Callable[[str, float], None]
"""Is told what is being done, and the share of it that is done; may raise Stopped."""

_watch: ContextVar[Watch | None] = ContextVar("watch", default=None)


class Stopped(Exception):
    """The work was stopped on request, and has changed nothing."""


@contextmanager
def watched(watch: Watch) -> Iterator[None]:
    """Tell this function how far the work inside is."""
    token = _watch.set(watch)
    try:
        yield
    finally:
        _watch.reset(token)


def report(doing: str, share: float = 0.0) -> None:
    """Say what is being done, and which share of it is done; raises Stopped when asked to stop."""
    watch = _watch.get()
    if watch is not None:
        watch(doing, share)


def told(doing: str, items: Iterable[Item]) -> Iterator[Item]:
    """The items one by one, each reported before its turn."""
    rows: Sequence[Item] = items if isinstance(items, Sequence) else list(items)
    for number, item in enumerate(rows):
        report(doing, number / len(rows))
        yield item
