"""Save what can be read of a damaged database; the damaged file is set aside."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from oilstone.builds import copies, repair


class Command(BaseCommand):
    """``manage.py repair``: for when no copy is new enough; a sound database is left alone."""

    help = __doc__
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        """Say table by table what could be saved."""
        file = copies.database()
        if not file.exists():
            raise CommandError(f"{file} is not there. {copies.RESTORE}.")
        if copies.unsound(file) is None:
            self.stdout.write(f"{file} is sound: there is nothing to repair.")
            return
        try:
            found, aside = repair.saved()
        except copies.DataTrouble as problem:
            raise CommandError(str(problem)) from None
        for row in found:
            if row.rows or row.broken:
                short = ", some could not be read" if row.broken else ""
                self.stdout.write(f"{row.table}: {row.rows} rows{short}")
        self.stdout.write(f"What was there before is kept as {aside}. Now look: check_data.")
