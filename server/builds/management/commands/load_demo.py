"""Load the demo cars when there is no build yet."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction

from circuitry.build.document import read
from server.builds import models, storage

CARS = ("demo/saltmarsh-roadster.json", "demo/fernhill-half-ton-van.json")


class Command(BaseCommand):
    """``manage.py load_demo [FILE…]``: the user's own data is never touched."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Documents to load in place of the demo cars."""
        parser.add_argument("files", nargs="*", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Create a build for each demo car's document."""
        if models.Build.objects.exists():
            return
        with transaction.atomic():
            for file in options["files"] or [settings.ROOT / name for name in CARS]:
                row = storage.create(read(file.read_bytes()))
                self.stdout.write(f"Loaded the demo car “{row.name}”.")
