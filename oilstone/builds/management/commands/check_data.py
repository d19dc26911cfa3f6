"""Look through the data: the file, its references, and every build with its history."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from oilstone.builds import copies, repair


class Command(BaseCommand):
    """``manage.py check_data``: one line for each thing that is wrong."""

    help = __doc__
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Print what is wrong, or that all is well."""
        try:
            copies.check_data()
        except copies.DataTrouble as problem:
            raise CommandError(str(problem)) from None
        found = list(repair.looked_through())
        for line in found:
            self.stdout.write(line)
        if found:
            raise CommandError(f"{len(found)} things are wrong. {copies.RESTORE}.")
        self.stdout.write(f"{copies.database()} is sound, and every build can be read.")
