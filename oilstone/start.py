"""``oilstone``, as it is installed: makes the data ready, serves it, and opens the browser."""

import argparse
import os
import sys
from collections.abc import Sequence

import django
from django.core.management import call_command
from django.core.management.base import CommandError

DATA_COMMANDS = ("restore", "check_data", "repair")
"""What can be asked for in place of serving, as of ``manage.py``."""


def main(arguments: Sequence[str] | None = None) -> None:
    """``oilstone [--port N] [--no-browser]``, or one of ``DATA_COMMANDS`` with its own options."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "oilstone.settings")
    django.setup()
    given = list(sys.argv[1:] if arguments is None else arguments)
    try:
        if given and given[0] in DATA_COMMANDS:
            call_command(*given)
            return
        parser = argparse.ArgumentParser(
            "oilstone", description=f"{__doc__} Or: {', '.join(DATA_COMMANDS)}."
        )
        parser.add_argument("--port", type=int, default=8000, help="0 takes a free one")
        parser.add_argument("--no-browser", action="store_true", help="only say the address")
        asked = parser.parse_args(given)
        call_command("prepare")
        call_command("serve", port=asked.port, open=not asked.no_browser)
    except CommandError as problem:
        raise SystemExit(str(problem)) from None
    except KeyboardInterrupt:
        raise SystemExit(0) from None


if __name__ == "__main__":
    main()
