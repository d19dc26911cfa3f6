"""Load the demo cars when there is no build yet."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction

from circuitry.build.document import read
from server.builds import models, storage

CARS = ("saltmarsh-roadster", "fernhill-half-ton-van")


class Command(BaseCommand):
    """``manage.py load_demo``: the user's own data is never touched."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Create a build for each demo car's document."""
        if models.Build.objects.exists():
            return
        with transaction.atomic():
            for name in CARS:
                file = settings.ROOT / "demo" / f"{name}.json"
                row = storage.create(read(file.read_bytes()))
                self.stdout.write(f"Loaded the demo car “{row.name}”.")
