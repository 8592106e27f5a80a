"""Servers for the tests, forked from one process in which everything is loaded: loading it again for every
test would take most of their time. Each is a process of its own, as it is for a user.
"""

import contextlib
import json
import os
import signal
import subprocess
import sys
import tempfile
from pathlib import Path

from tests.browser.serving import Server


class Nursery:
    """One process that loads the application and begins a server whenever it is told to."""

    def __init__(self) -> None:
        self._folder = tempfile.TemporaryDirectory()
        self._count = 0
        self._process = subprocess.Popen(
            [sys.executable, "-m", "tests.browser.nursery"], stdin=subprocess.PIPE, stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL, text=True,
        )  # fmt: skip

    def server(self, *arguments: str) -> Server:
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        self._count += 1
        said = Path(self._folder.name) / str(self._count)
        os.mkfifo(said)
        print(json.dumps([str(said), list(arguments)]), file=self._process.stdin, flush=True)
        pid = int(self._process.stdout.readline())
        return Server(Forked(pid), said.open())

    def close(self) -> None:
        self._process.terminate()
        self._process.wait()
        self._folder.cleanup()


class Forked:
    """A server's process, which is the nursery's child and not ours."""

    def __init__(self, pid: int) -> None:
        self.pid = pid

    def poll(self) -> int | None:
        try:
            os.kill(self.pid, 0)
        except ProcessLookupError:
            return 0
        return None

    def kill(self) -> None:
        os.kill(self.pid, signal.SIGKILL)

    def terminate(self) -> None:
        os.kill(self.pid, signal.SIGTERM)

    def wait(self) -> None:
        while self.poll() is None:
            with contextlib.suppress(InterruptedError):
                signal.sigtimedwait((), 0.01)


def _main() -> None:
    import juglant.api.app
    import juglant.api.serve
    import juglant.demo.scenario  # noqa: F401
    from juglant.cli import main

    # Whoever ends is gone at once, with nobody to ask for it.
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    for line in sys.stdin:
        said, arguments = json.loads(line)
        pid = os.fork()
        if pid == 0:
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            os.dup2(os.open(said, os.O_WRONLY), 1)
            os.close(0)
            with contextlib.suppress(SystemExit):
                main(["serve", "--port", "0", *arguments])
            os._exit(0)
        print(pid, flush=True)


if __name__ == "__main__":
    _main()
