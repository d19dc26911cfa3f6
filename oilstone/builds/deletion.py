"""Builds that were deleted: out of sight at once, gone for good after 30 days."""

from datetime import datetime, timedelta

from django.utils import timezone

from oilstone.builds import models

KEPT_FOR = timedelta(days=30)


def delete(row: models.Build) -> None:
    """Put a build out of sight."""
    row.deleted = timezone.now()
    row.save(update_fields=["deleted"])


def bring_back(row: models.Build) -> None:
    """Put a deleted build back among the others."""
    row.deleted = None
    row.save(update_fields=["deleted"])


def gone_at(row: models.Build) -> datetime | None:
    """When a deleted build goes for good."""
    return row.deleted and row.deleted + KEPT_FOR


def purge() -> None:
    """Take away for good what was deleted longer ago than it is kept."""
    models.Build.with_deleted.filter(deleted__lt=timezone.now() - KEPT_FOR).delete()
