"""The public face: every example in it runs, and so does the page of documentation."""

import doctest
import io
import re
from contextlib import chdir, redirect_stdout
from unittest import TestCase

import circuitry
from circuitry import public
from tests.core.cars import ROOT


class PublicTest(TestCase):
    def test_every_example_runs(self) -> None:
        with chdir(ROOT):
            found = doctest.testmod(public)
        self.assertEqual(found.failed, 0)
        self.assertGreater(found.attempted, 20)
        functions = (getattr(public, name) for name in public.__all__ if name[0].islower())
        examples = {row.__name__: ">>>" in (row.__doc__ or "") for row in functions}
        self.assertEqual([name for name, has in examples.items() if not has], ["write"])

    def test_the_page_prints_what_it_says(self) -> None:
        page = (ROOT / "docs" / "python.md").read_text()
        code, printed = re.findall(r"```(?:python)?\n(.*?)```", page, re.S)[:2]
        out = io.StringIO()
        with chdir(ROOT), redirect_stdout(out):
            exec(compile(code, "docs/python.md", "exec"), {})
        self.assertEqual(out.getvalue(), printed)

    def test_it_is_had_from_the_top(self) -> None:
        for name in public.__all__:
            self.assertIs(getattr(circuitry, name), getattr(public, name))
