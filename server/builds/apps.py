"""The app of stored builds."""

from django.apps import AppConfig


class BuildsConfig(AppConfig):
    """Builds in the database."""

    name = "server.builds"
    label = "builds"
