"""Copies of the whole database: taken before each migration and daily, checked, and taken back.

A copy is made by SQLite's online backup, so that it is whole though people are at work.
"""

import fcntl
import os
import sqlite3
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from django.conf import settings

KEPT = 14
STAMP, STAMPED = "%Y-%m-%d-%H%M%S-%f", len("2026-01-31-235959-123456")
DAY_S = 24 * 3600.0
BUSY_S = 20
RESTORE = f"Take a copy back with “{settings.RESTORE}”"


class DataTrouble(Exception):
    """The database cannot be worked with: which, why, and the way out, in one line."""


def database() -> Path:
    """The file of the database."""
    return Path(settings.DATA) / "oilstone.sqlite3"


def folder() -> Path:
    """Where the copies are."""
    return Path(settings.DATA) / "copies"


def reading(file: Path) -> closing[sqlite3.Connection]:
    """A connection that changes nothing, closed after use."""
    return closing(sqlite3.connect(f"file:{file}?mode=ro", uri=True, timeout=BUSY_S))


def copies() -> list[Path]:
    """The copies, the newest first."""
    return sorted(folder().glob("*.sqlite3"), key=lambda file: file.name, reverse=True)


def take_copy(reason: str, file: Path | None = None) -> Path:
    """Copy the database whole; ``reason`` stands in the copy's name. Keeps the newest ``KEPT``."""
    folder().mkdir(mode=0o700, exist_ok=True)
    stamp = datetime.now().strftime(STAMP)
    whole, partial = folder() / f"{stamp}-{reason}.sqlite3", folder() / f"{stamp}.partial"
    with (
        closing(sqlite3.connect(file or database(), timeout=BUSY_S)) as source,
        closing(sqlite3.connect(partial)) as target,
    ):
        source.backup(target)
        target.execute("PRAGMA journal_mode=DELETE")
    partial.chmod(0o600)
    with partial.open("rb") as written:
        os.fsync(written.fileno())
    partial.rename(whole)
    for old in copies()[KEPT:]:
        old.unlink()
    return whole


def copy_if_due() -> Path | None:
    """Take the daily copy, when the newest copy is a day old."""
    newest = next(iter(copies()), None)
    if newest is not None and time.time() - newest.stat().st_mtime < DAY_S:
        return None
    return take_copy("daily")


def check_data() -> None:
    """Raise DataTrouble unless the database is sound and may be written, or was never there."""
    file = database()
    kept = f"{RESTORE}, or begin anew by moving {file} and {folder()} away."
    if not file.exists():
        if copies():
            raise DataTrouble(
                f"The data is gone: {file} is not there, but copies of it are. {kept}"
            )
        return
    if file.stat().st_size == 0:
        raise DataTrouble(f"The data is empty: {file} has no bytes. {kept}")
    if not (os.access(file, os.R_OK | os.W_OK) and os.access(file.parent, os.W_OK)):
        raise _read_only(file)
    trouble = unsound(file)
    if trouble is not None:
        raise DataTrouble(f"The data is damaged: {file}: {trouble}. {kept}")
    try:
        with closing(sqlite3.connect(file, timeout=BUSY_S, isolation_level=None)) as connection:
            connection.execute("BEGIN IMMEDIATE")
            connection.execute("CREATE TABLE oilstone_may_write (yes)")
            connection.execute("ROLLBACK")
    except sqlite3.OperationalError as problem:
        if "readonly" in str(problem):
            raise _read_only(file) from None
        raise DataTrouble(f"The data cannot be written: {file}: {problem}.") from None


def unsound(file: Path) -> str | None:
    """What is wrong with a database; None where SQLite's quick check finds nothing."""
    try:
        with reading(file) as opened:
            found = [str(row[0]) for row in opened.execute("PRAGMA quick_check(3)")]
            tables = {row[0] for row in opened.execute("SELECT name FROM sqlite_master")}
    except sqlite3.Error as problem:
        return str(problem)
    if found != ["ok"]:
        return "; ".join(" ".join(row.split()) for row in found)[:300]
    return None if "builds_build" in tables or not tables else "it holds no builds"


def restore(name: str | None) -> tuple[Path, Path | None]:
    """Put a copy, the newest sound one where none is named, in place of the database.

    Answers the copy, and where the database that was there has been set aside. Raises DataTrouble.
    """
    chosen = _chosen(name)
    with serving(alone=True):
        file = database()
        aside = set_aside() if file.exists() else None
        with closing(sqlite3.connect(chosen)) as source, closing(sqlite3.connect(file)) as target:
            source.backup(target)
        file.chmod(0o600)
    return chosen, aside


@dataclass(frozen=True)
class Copy:
    """A copy by its file name: when and why it was taken, its size, and the builds in it."""

    name: str
    taken: datetime
    why: str
    size_mb: float
    builds: tuple[str, ...]


def told() -> list[Copy]:
    """The sound copies, the newest first."""
    found = []
    for file in copies():
        if unsound(file) is not None:
            continue
        stamp, why = file.stem[:STAMPED], file.stem[STAMPED + 1 :]
        with reading(file) as opened:
            rows = opened.execute("SELECT name FROM builds_build ORDER BY id").fetchall()
        taken = datetime.strptime(stamp, STAMP)
        size_mb = file.stat().st_size / 1e6
        found.append(Copy(file.name, taken, why, size_mb, tuple(row[0] for row in rows)))
    return found


def take_back(name: str) -> None:
    """Make the data what a copy holds while it is served; what is there now is copied first.

    Raises DataTrouble, also for a copy from before the tables changed.
    """
    chosen = _chosen(name)
    if _migrations(chosen) != _migrations(database()):
        raise DataTrouble(
            f"{chosen.name} is of an earlier version. Stop Oilstone and type: "
            f"{settings.RESTORE} {settings.COPY_GIVEN}{chosen.name}. It is brought up to date then."
        )
    with (
        closing(sqlite3.connect(chosen)) as source,
        closing(sqlite3.connect(database(), timeout=BUSY_S)) as target,
    ):
        take_copy("before-taking-back")
        source.backup(target)


def _migrations(file: Path) -> set[str]:
    with reading(file) as opened:
        return {
            row[0] for row in opened.execute("SELECT app || '.' || name FROM django_migrations")
        }


def set_aside() -> Path:
    """Move the database, with what SQLite keeps beside it, to a name of its own; which."""
    file, stamp = database(), datetime.now().strftime("%Y-%m-%d-%H%M%S")
    aside = file.with_name(f"{file.name}.set-aside-{stamp}")
    file.rename(aside)
    for ending in ("-wal", "-shm"):
        beside = file.with_name(file.name + ending)
        if beside.exists():
            beside.rename(aside.with_name(aside.name + ending))
    return aside


def _chosen(name: str | None) -> Path:
    if name is None:
        found = next((copy for copy in copies() if unsound(copy) is None), None)
        if found is None:
            raise DataTrouble(f"There is no sound copy in {folder()}.")
        return found
    found = folder() / Path(name).name
    if not found.exists():
        there = ", ".join(copy.name for copy in copies()) or "none"
        raise DataTrouble(f"There is no copy “{name}” in {folder()}. There are: {there}.")
    trouble = unsound(found)
    if trouble is not None:
        raise DataTrouble(f"The copy {found.name} is damaged itself: {trouble}. Choose another.")
    return found


@contextmanager
def serving(alone: bool = False) -> Iterator[None]:
    """Hold the data while it is served; ``alone`` keeps it from being served at all."""
    with (Path(settings.DATA) / "serving.lock").open("w") as lock:
        try:
            fcntl.flock(lock, (fcntl.LOCK_EX if alone else fcntl.LOCK_SH) | fcntl.LOCK_NB)
        except BlockingIOError:
            what = "is running" if alone else "is being restored"
            raise DataTrouble(f"Oilstone {what} on this data. Stop it first (Ctrl+C).") from None
        yield


def _read_only(file: Path) -> DataTrouble:
    return DataTrouble(
        f"The data may not be written: {file} is read-only. Give this user the right to write it "
        f"and its folder: chmod u+w {file} {file.parent}. Or {RESTORE[0].lower()}{RESTORE[1:]}."
    )
