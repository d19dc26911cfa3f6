"""Looking through the data, and saving what can be read of damaged data."""

import sqlite3
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from oilstone.builds import copies, history, models, storage
from oilstone.trouble import UnreadableBuild

INTERNAL = "sqlite_"
MOST_TOLD = 20


@dataclass(frozen=True)
class Saved:
    """How many rows of a table could be read; ``broken`` says that some could not."""

    table: str
    rows: int
    broken: bool


def looked_through() -> Iterator[str]:
    """What is wrong with the data, in words: the file, references, builds and their histories."""
    file = copies.database()
    with copies.reading(file) as opened:
        for (found,) in opened.execute(f"PRAGMA integrity_check({MOST_TOLD})"):
            if found != "ok":
                yield f"The file: {' '.join(str(found).split())}."
        for table, row, parent, _ in opened.execute("PRAGMA foreign_key_check"):
            yield f"Row {row} of {table} belongs to a row of {parent} that is not there."
    for row in models.Build.with_deleted.all():
        try:
            storage.load(row)
            history.build_of(row, 0)
        except UnreadableBuild:
            yield f"“{row.name}” (build {row.pk}) cannot be read."
        except Exception as problem:  # whatever an odd history makes of it is told
            yield f"The history of “{row.name}” (build {row.pk}) cannot be gone back: {problem}"


def saved() -> tuple[list[Saved], Path]:
    """Put a database of all rows that can be read in place of a damaged one, which is set aside.

    Answers what was saved of each table, and where the damaged file is. Raises DataTrouble where
    nothing can be read.
    """
    with copies.serving(alone=True):
        file = copies.database()
        fresh = file.with_name("repaired.partial")
        fresh.unlink(missing_ok=True)
        try:
            with (
                closing(sqlite3.connect(file)) as source,
                closing(sqlite3.connect(fresh)) as target,
            ):
                found = list(_copied(source, target))
        except sqlite3.Error as problem:
            fresh.unlink(missing_ok=True)
            raise copies.DataTrouble(
                f"Nothing can be read of {file}: {problem}. {copies.RESTORE}."
            ) from None
        aside = copies.set_aside()
        fresh.rename(file)
        file.chmod(0o600)
    return found, aside


def _copied(source: sqlite3.Connection, target: sqlite3.Connection) -> Iterator[Saved]:
    schema = source.execute(
        "SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL "
        "ORDER BY type = 'table' DESC"
    ).fetchall()
    for kind, name, sql in schema:
        if name.startswith(INTERNAL):
            continue
        target.execute(sql)
        if kind == "table":
            rows, broken = _rows(source, name)
            if rows:
                marks = ", ".join("?" * len(rows[0]))
                target.executemany(f'INSERT OR IGNORE INTO "{name}" VALUES ({marks})', rows)
            yield Saved(name, len(rows), broken)
    target.commit()


def _rows(source: sqlite3.Connection, table: str) -> tuple[list[tuple[object, ...]], bool]:
    """The rows of a table from its start, and where one cannot be read, from its end too."""
    found: dict[int, tuple[object, ...]] = {}
    for order in ("ASC", "DESC"):
        try:
            for number, *row in source.execute(
                f'SELECT rowid, * FROM "{table}" ORDER BY rowid {order}'
            ):
                found[number] = tuple(row)
        except sqlite3.DatabaseError:
            continue
        return [found[number] for number in sorted(found)], order == "DESC"
    return [found[number] for number in sorted(found)], True
