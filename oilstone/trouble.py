"""What went wrong on this side: said in a plain word, and written down where it can be found."""

import logging
import uuid
from dataclasses import dataclass

from django.conf import settings
from django.db import DatabaseError

log = logging.getLogger("oilstone")

CAUSES = (
    ("SQLITE_FULL", "disk-full", "The disk is full. Make room on it; nothing here was changed."),
    (
        "SQLITE_READONLY",
        "read-only",
        "The data may not be written: it is read-only. Give this user the right to write "
        "{data}; nothing was changed.",
    ),
    (
        "SQLITE_CORRUPT",
        "damaged",
        "The data is damaged. Stop Oilstone and take a copy back: {restore}.",
    ),
    (
        "SQLITE_NOTADB",
        "damaged",
        "The data is damaged: {data}/oilstone.sqlite3 is no database. Stop Oilstone and take a "
        "copy back: {restore}.",
    ),
    (
        "SQLITE_CANTOPEN",
        "no-data",
        "The data cannot be opened: look whether {data} is there and may be read.",
    ),
    (
        "SQLITE_IOERR",
        "disk-error",
        "The disk did not read or write as it should. Copy {data} to another disk.",
    ),
    (
        "SQLITE_BUSY",
        "busy",
        "Another program holds the data. Close it, then try again; nothing was changed.",
    ),
)
DAMAGED_SCHEMA = "no such table"


@dataclass(frozen=True)
class Trouble:
    """A code, a plain word with the way out, and the status to answer with."""

    code: str
    message: str
    status: int


@dataclass(eq=False)
class UnreadableBuild(Exception):
    """A stored build that cannot be read any more; the others are not concerned."""

    name: str


def trouble(problem: Exception) -> Trouble:
    """What to say of an error that is not the user's; its trace goes to the log file."""
    reference = f"E-{uuid.uuid4().hex[:6]}"
    log.error("%s", reference, exc_info=problem)
    written = f" (Written down as {reference} in {settings.LOG_FILE}.)"
    if isinstance(problem, UnreadableBuild):
        return Trouble(
            "unreadable-build",
            f"“{problem.name}” cannot be read from the data; other builds are not concerned. Take "
            f"a copy back that still has it: {settings.RESTORE}.{written}",
            503,
        )
    if isinstance(problem, DatabaseError):
        code, message = _cause(problem)
        return Trouble(
            code, message.format(data=settings.DATA, restore=settings.RESTORE) + written, 503
        )
    return Trouble(
        "fault",
        "Something is wrong in Oilstone itself, not in what you did. Nothing was changed."
        + written,
        500,
    )


def _cause(problem: DatabaseError) -> tuple[str, str]:
    name = str(getattr(problem.__cause__, "sqlite_errorname", ""))
    for start, code, message in CAUSES:
        if name.startswith(start):
            return code, message
    if DAMAGED_SCHEMA in str(problem):
        return "damaged", CAUSES[2][2]
    return "data-trouble", "The data could not be read or written. Nothing was changed."
