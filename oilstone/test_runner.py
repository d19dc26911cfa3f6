"""Django's test runner, closing with a line that counts."""

import unittest
from typing import Any
from unittest import mock

from django.db.backends.sqlite3.creation import DatabaseCreation
from django.test.runner import DiscoverRunner

from oilstone.memory import collect_seldom


class CountingRunner(DiscoverRunner):
    """Ends with ``N passed, N failed``, and ``, N skipped`` where some were."""

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """Never ask whether an old test database may go."""
        super().__init__(*args, **{**kwargs, "interactive": False})

    def setup_databases(self, **kwargs: Any) -> Any:
        """Databases for all workers; what is still in the log is written before one is copied."""
        copy = DatabaseCreation._clone_test_db

        def written_and_copied(creation: DatabaseCreation, *args: Any, **options: Any) -> None:
            with creation.connection.cursor() as cursor:
                cursor.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            copy(creation, *args, **options)

        with mock.patch.object(DatabaseCreation, "_clone_test_db", written_and_copied):
            return super().setup_databases(**kwargs)

    def suite_result(
        self, suite: unittest.TestSuite, result: unittest.TestResult, **kwargs: Any
    ) -> int:
        """Print the counts after the whole run and hand Django its number of failures."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        skipped = len(result.skipped)
        passed = max(result.testsRun - failed - skipped, 0)
        self.closing_line = f"{passed} passed, {failed} failed"
        if skipped:
            self.closing_line += f", {skipped} skipped"
        return int(super().suite_result(suite, result, **kwargs))

    def run_tests(self, test_labels: list[str], **kwargs: Any) -> int:
        """Run, tear down, and print the closing line last."""
        collect_seldom()
        failures = super().run_tests(test_labels, **kwargs)
        print(self.closing_line, flush=True)
        return int(failures)
