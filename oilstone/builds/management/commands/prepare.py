"""Make the data ready: check it, bring its tables up to date, and load the demo cars once."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, transaction

from circuitry.document.reading import read
from oilstone.builds import copies, deletion, storage

CARS = ("saltmarsh-roadster.json", "fernhill-half-ton-van.json", "quarrel-hill-rally-coupe.json")


class Command(BaseCommand):
    """``manage.py prepare [FILE…]``: what the user has is never touched, nor made up for."""

    help = __doc__
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """Documents to load in place of the demo cars."""
        parser.add_argument("files", nargs="*", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Check, migrate, and load the demo cars into a database that never had a build."""
        try:
            copies.check_data()
        except copies.DataTrouble as problem:
            raise CommandError(str(problem)) from None
        call_command("migrate", verbosity=0)
        deletion.purge()
        if _ever_used():
            return
        with transaction.atomic():
            for file in options["files"] or [settings.DEMO / name for name in CARS]:
                row = storage.create(read(file.read_bytes()))
                self.stdout.write(f"Loaded the demo car “{row.name}”.")


def _ever_used() -> bool:
    """Whether this database has given out a number for a build, though it may be deleted since."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT seq FROM sqlite_sequence WHERE name = 'builds_build'")
        row = cursor.fetchone()
        return row is not None and row[0] > 0
