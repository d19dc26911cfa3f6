"""Commands in processes of their own that begin with the core and its libraries loaded.

Loading them takes longer than most commands do. So one process loads them once, and is forked for
each command; the server, whose settings differ by command, is loaded after that.
"""

import importlib
import json
import os
import pkgutil
import runpy
import select
import shutil
import signal
import subprocess
import sys
import tempfile
from collections.abc import Mapping, Sequence
from contextlib import suppress
from functools import cache
from multiprocessing.util import Finalize
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parents[1]


class Command:
    """``python ARGUMENTS`` from the root: ``manage.py …``, or ``-c CODE``."""

    def __init__(self, arguments: Sequence[str], environment: Mapping[str, str]) -> None:
        self._folder = Path(tempfile.mkdtemp(prefix="oilstone-command-"))
        for name in ("stdout", "stderr"):
            (self._folder / name).touch()
        self.pid = _forked(
            {
                "arguments": list(arguments),
                "environment": dict(environment),
                "folder": str(self._folder),
            }
        )
        try:
            self._ended = os.pidfd_open(self.pid)
        except ProcessLookupError:
            self._ended = -1

    def wait(self, timeout_s: float) -> int:
        """The exit code; raises TimeoutError. One that was killed has −1."""
        if self._ended >= 0:
            if not select.select([self._ended], [], [], timeout_s)[0]:
                raise TimeoutError(f"{self.pid} goes on after {timeout_s} s")
            os.close(self._ended)
            self._ended = -1
        code = self._folder / "code"
        return int(code.read_text()) if code.exists() else -1

    @property
    def running(self) -> bool:
        """Whether it goes on."""
        return self._ended >= 0 and not select.select([self._ended], [], [], 0)[0]

    @property
    def stdout(self) -> str:
        """What it has printed so far."""
        return (self._folder / "stdout").read_text()

    @property
    def stderr(self) -> str:
        """What it has complained of so far."""
        return (self._folder / "stderr").read_text()

    def signal(self, number: signal.Signals) -> None:
        """Send it a signal, where it goes on."""
        with suppress(ProcessLookupError):
            os.kill(self.pid, number)

    def forget(self) -> None:
        """Take away what it printed."""
        shutil.rmtree(self._folder, ignore_errors=True)


def run(
    arguments: Sequence[str], environment: Mapping[str, str], timeout_s: float = 60.0
) -> subprocess.CompletedProcess[str]:
    """A command to its end."""
    command = Command(arguments, environment)
    try:
        code = command.wait(timeout_s)
        return subprocess.CompletedProcess(arguments, code, command.stdout, command.stderr)
    finally:
        command.signal(signal.SIGKILL)
        command.forget()


@cache
def _loaded() -> subprocess.Popen[str]:
    process = subprocess.Popen(
        [sys.executable, "-m", "tests.commands"],
        cwd=ROOT,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        text=True,
    )
    Finalize(None, process.kill, exitpriority=0)
    return process


def _forked(asked: Mapping[str, Any]) -> int:
    process = _loaded()
    assert process.stdin is not None
    assert process.stdout is not None
    print(json.dumps(asked), file=process.stdin, flush=True)
    return int(process.stdout.readline())


def main() -> None:
    """Load, then fork for each line that is read."""
    import circuitry
    from circuitry.bench.compiling import compile_solver

    for module in pkgutil.walk_packages(circuitry.__path__, "circuitry."):
        if not module.name.endswith("__main__"):
            importlib.import_module(module.name)
    compile_solver()
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # who has ended is gone
    for line in sys.stdin:
        pid = os.fork()
        if not pid:
            _become(**json.loads(line))
        print(pid, flush=True)


def _become(arguments: Sequence[str], environment: Mapping[str, str], folder: str) -> None:
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    os.environ.clear()
    os.environ.update(environment)
    for number, name in ((1, "stdout"), (2, "stderr")):
        os.dup2(os.open(Path(folder) / name, os.O_WRONLY), number)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    code: object = 0
    try:
        sys.argv = list(arguments)
        if arguments[0] == "-c":
            exec(arguments[1], {"__name__": "__main__"})
        else:
            runpy.run_path(arguments[0], run_name="__main__")
    except SystemExit as ended:
        code = ended.code or 0
        if not isinstance(code, int):
            print(code, file=sys.stderr)
            code = 1
    except BaseException:
        sys.excepthook(*sys.exc_info())
        code = 1
    sys.stdout.flush()
    sys.stderr.flush()
    (Path(folder) / "code").write_text(str(code))
    os._exit(0)


if __name__ == "__main__":
    main()
