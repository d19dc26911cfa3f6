"""The app of stored builds."""

from typing import Any

from django.apps import AppConfig
from django.db import connections
from django.db.models.signals import pre_migrate


class BuildsConfig(AppConfig):
    """Builds in the database, which is copied before its tables change."""

    name = "oilstone.builds"
    label = "builds"

    def ready(self) -> None:
        """Copy the database before each migration."""
        pre_migrate.connect(copy_before, sender=self)


def copy_before(using: str, plan: list[tuple[Any, bool]], **kwargs: Any) -> None:
    """Copy a database that has builds and is about to be migrated."""
    from oilstone.builds.copies import take_copy  # the settings are not read yet when apps load

    connection = connections[using]
    if not plan or "builds_build" not in connection.introspection.table_names():
        return
    take_copy(f"before-{plan[-1][0].name.replace('_', '-')}", connection.settings_dict["NAME"])
