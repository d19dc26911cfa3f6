"""Serve on 127.0.0.1 as in production."""

import gc
import socket
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from waitress import create_server

from server.wsgi import application

LARGEST_REQUEST_BYTES = 80_000_000
COLLECT_AFTER = (100_000, 50, 100)
"""Results are many small objects that live long. With Python's usual thresholds the collector looks
through all of them many times in one edit, which takes as long as the edit itself."""


class Command(BaseCommand):
    """``manage.py serve [--port N]``: prints the address once it answers."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The port; 0 takes a free one."""
        parser.add_argument("--port", type=int, default=8000)

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until interrupted; one clear line when the port is taken."""
        port = options["port"]
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except (OSError, OverflowError) as problem:
            raise CommandError(
                f"Port {port} cannot be used ({problem}). Take another: PORT=9000 make demo"
            ) from None
        server = create_server(
            application,
            sockets=[listener],
            threads=8,
            max_request_body_size=LARGEST_REQUEST_BYTES,
        )
        address = f"http://127.0.0.1:{listener.getsockname()[1]}/"
        self.stdout.write(f"Oilstone is at {address}   (Ctrl+C stops it)")
        self.stdout.flush()
        gc.freeze()
        gc.set_threshold(*COLLECT_AFTER)
        server.run()
