"""Serve on 127.0.0.1 as in production."""

import logging
import socket
import threading
import time
import webbrowser
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from waitress import create_server

from circuitry.bench.compiling import compile_solver
from oilstone.builds import copies, deletion
from oilstone.memory import collect_seldom, share_heaps
from oilstone.wsgi import application

THREADS = 32
"""Each page that shows a live build holds one; the rest answer."""
COPY_LOOK_S = 900
OTHER_PORT = "oilstone --port 9000" if settings.INSTALLED else "PORT=9000 make demo"


class Command(BaseCommand):
    """``manage.py serve [--port N] [--open]``: prints the address once it answers."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """The port; 0 takes a free one."""
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--open", action="store_true", help="open it in the browser")

    def handle(self, *args: Any, **options: Any) -> None:
        """Serve until interrupted; one clear line when the port is taken."""
        try:
            copies.check_data()
            with copies.serving():
                self._serve(options["port"], options["open"])
        except copies.DataTrouble as problem:
            raise CommandError(str(problem)) from None

    def _serve(self, port: int, opened: bool) -> None:
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            listener.bind(("127.0.0.1", port))
        except (OSError, OverflowError) as problem:
            raise CommandError(
                f"Port {port} cannot be used ({problem}). Take another: {OTHER_PORT}"
            ) from None
        share_heaps()
        collect_seldom()
        self.stdout.write("Making the solver ready; the first time on a machine takes longer…")
        self.stdout.flush()
        compile_solver()
        server = create_server(
            application,
            sockets=[listener],
            threads=THREADS,
            max_request_body_size=settings.LARGEST_REQUEST_BYTES,
        )
        address = f"http://127.0.0.1:{listener.getsockname()[1]}/"
        self.stdout.write(f"Oilstone is at {address}   (Ctrl+C stops it)")
        self.stdout.flush()
        if opened:
            threading.Thread(target=webbrowser.open, args=(address,), daemon=True).start()
        threading.Thread(target=_keep_copies, daemon=True).start()
        server.run()


def _keep_copies() -> None:
    """Look now and then whether the daily copy is due; trouble with it goes to the log file."""
    while True:
        try:
            copies.copy_if_due()
            deletion.purge()
        except Exception:
            logging.getLogger("oilstone").exception("the daily copy was not taken")
        finally:
            connection.close()
        time.sleep(COPY_LOOK_S)
