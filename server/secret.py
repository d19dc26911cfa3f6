"""The secret key, made on the first run and kept beside the data."""

import os
from pathlib import Path

from django.core.management.utils import get_random_secret_key


def secret_key(file: Path) -> str:
    """The key in this file; a new one, readable by its owner only, when there is none."""
    try:
        handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    except FileExistsError:
        return file.read_text(encoding="ascii")
    with os.fdopen(handle, "w", encoding="ascii") as new:
        key = get_random_secret_key()
        new.write(key)
    return key
