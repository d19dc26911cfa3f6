"""``python -m circuitry``: standard output has the answer and nothing else."""

import os
import sys

from circuitry.command_line import main


def _keep_libraries_quiet() -> None:
    """Send what a library prints by itself, as that of the integer programme does now and then, to
    standard error, so that a program can read the answer."""
    given = sys.stdout
    answers = os.dup(1)
    os.dup2(2, 1)
    sys.stdout = os.fdopen(
        answers,
        "w",
        encoding=given.encoding,
        errors=given.errors,
        buffering=1 if given.line_buffering else -1,
    )


_keep_libraries_quiet()
sys.exit(main(sys.argv[1:]))
