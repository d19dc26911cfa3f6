"""``python -m circuitry``."""

import sys

from circuitry.command_line import main

sys.exit(main(sys.argv[1:]))
