"""Take a copy of the data back."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from oilstone.builds import copies


class Command(BaseCommand):
    """``manage.py restore [COPY]``: the newest sound copy, or the one named; ``--list`` lists."""

    help = __doc__
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        """The copy to take, by its name."""
        parser.add_argument("copy", nargs="?")
        parser.add_argument("--list", action="store_true", help="list the copies, newest first")

    def handle(self, *args: Any, **options: Any) -> None:
        """Put the copy in place; what was there is set aside, never thrown away."""
        if options["list"]:
            for copy in copies.copies():
                size_mb = copy.stat().st_size / 1e6
                self.stdout.write(f"{copy.name}  {size_mb:.1f} MB")
            return
        try:
            taken, aside = copies.restore(options["copy"])
        except copies.DataTrouble as problem:
            raise CommandError(str(problem)) from None
        self.stdout.write(f"Restored {taken.name}.")
        if aside is not None:
            self.stdout.write(f"What was there before is kept as {aside}.")
