"""Whatever is sent, typed, opened or broken off: no fault of ours, and nothing lost.

``make test`` tries a little of each with a fixed seed; ``make fuzz`` tries ``FUZZ`` times as much,
with the ``SEED`` that it prints.
"""

import os

FUZZ = int(os.environ.get("FUZZ", "1"))
SEED = int(os.environ.get("SEED", "1"))
