"""What belongs to the owner alone: the folder of the data, all in it, and the secret key."""

import os
from pathlib import Path

from django.core.management.utils import get_random_secret_key

OURS = ("oilstone.sqlite3*", "oilstone.log*", "secret_key", "copies/*", "phone/*")


def make_private(folder: Path) -> None:
    """Make the folder if need be; what this program keeps in it is for its owner alone."""
    os.umask(0o077)
    folder.mkdir(parents=True, exist_ok=True)
    for file in (file for pattern in OURS for file in folder.glob(pattern)):
        about = file.stat()
        if about.st_mode & 0o077 and about.st_uid == os.getuid():
            file.chmod(0o600)


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
