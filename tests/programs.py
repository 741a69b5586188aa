"""Runs the commands of `./tight` for the tests, each as a process of its own.

To import the program takes two thirds of the time of a start, and the tests start it more than a hundred times. So a Python
process imports it once, and forks for each command. The tests of the cluster and of faults start the program as `./tight` does.
"""

import atexit
import gc
import json
import os
import select
import signal
import socket
import subprocess
import sys
from contextlib import suppress
from importlib import import_module
from io import FileIO
from pathlib import Path
from tempfile import TemporaryFile
from typing import BinaryIO

ROOT = Path(__file__).parents[1]
MODULES = (
    "tight_ledger.cli", "tight_ledger.api.app", "tight_ledger.demo.load", "tight_ledger.installation.serving", "tight_ledger.installation.library",
    "uvicorn.lifespan.on", "uvicorn.loops.auto", "uvicorn.protocols.http.auto", "uvicorn.protocols.websockets.auto",
    "tight_ledger.devices.simulated", "pymysql",
)  # fmt: skip
MOST_BYTES = 200_000
"""Size of a request: the arguments and the environment of a command."""


class Preloaded:
    """The Python process that has imported the program. It is started when the first command is run."""

    def __init__(self) -> None:
        self.requests: socket.socket | None = None

    def fork(self, request: dict, *files: int) -> None:
        """Fork for a command; `files` are its standard output, its standard error, and where its number and its end are reported."""
        if self.requests is None:
            self.requests, remote = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
            self.requests.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, 2 * MOST_BYTES)
            command = [sys.executable, "-m", "tests.programs", str(remote.fileno())]
            process = subprocess.Popen(command, pass_fds=[remote.fileno()], cwd=ROOT)
            remote.close()
            atexit.register(process.wait)
            atexit.register(self.requests.close)  # the process ends when its socket is closed
        socket.send_fds(self.requests, [json.dumps(request).encode()], files)


PRELOADED = Preloaded()


class Program:
    """A command that runs, with the methods of `subprocess.Popen` that the tests need."""

    def __init__(self, *arguments: str, environment: dict[str, str], stdout: BinaryIO, stderr: BinaryIO):
        reading, writing = os.pipe()
        PRELOADED.fork({"arguments": arguments, "environment": environment}, stdout.fileno(), stderr.fileno(), writing)
        os.close(writing)
        self._reports = FileIO(reading)
        self.pid = self._number()
        self.returncode: int | None = None

    def _number(self) -> int:
        number = self._reports.read(4)
        assert number, "the process that had imported the program ended; its own error is above"
        return int.from_bytes(number, "big", signed=True)

    def poll(self, within_s: float | None = 0) -> int | None:
        if self.returncode is None and select.select([self._reports], [], [], within_s)[0]:
            self.returncode = self._number()
            self._reports.close()
        return self.returncode

    def wait(self, timeout: float | None = None) -> int:
        if self.poll(timeout) is None:
            raise subprocess.TimeoutExpired("tight", timeout or 0)
        return self.poll() or 0

    def send_signal(self, which: int) -> None:
        if self.poll() is None:
            os.kill(self.pid, which)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)


def run(*arguments: str, environment: dict[str, str], timeout: float) -> subprocess.CompletedProcess[str]:
    """Run a command to its end, with its output. One that takes longer than `timeout` seconds is killed.

    Raises:
        subprocess.TimeoutExpired: it took longer.
    """
    with TemporaryFile() as out, TemporaryFile() as err:
        program = Program(*arguments, environment=environment, stdout=out, stderr=err)
        try:
            code = program.wait(timeout)
        except subprocess.TimeoutExpired:
            program.kill()
            program.wait()
            raise
        for file in (out, err):
            file.seek(0)
        return subprocess.CompletedProcess(arguments, code, out.read().decode(), err.read().decode())


def serve_forks(requests: socket.socket) -> None:
    """Fork for each request, report the process's number and later its exit code. Only a fork returns, ready to run its command."""
    child_ended, wakeup = os.pipe()
    os.set_blocking(wakeup, False)
    signal.set_wakeup_fd(wakeup)
    signal.signal(signal.SIGCHLD, lambda *_: None)
    running: dict[int, int] = {}
    while True:
        ready = select.select([requests, child_ended], [], [])[0]
        if child_ended in ready:
            os.read(child_ended, 4_096)
            for pid in list(running):
                found, status = os.waitpid(pid, os.WNOHANG)
                if found:
                    report = running.pop(pid)
                    with suppress(BrokenPipeError):
                        os.write(report, os.waitstatus_to_exitcode(status).to_bytes(4, "big", signed=True))
                    os.close(report)
        if requests in ready:
            message, files, *_ = socket.recv_fds(requests, MOST_BYTES, 3)
            if not message:
                os._exit(0)
            if pid := os.fork():
                out, err, report = files
                os.close(out)
                os.close(err)
                os.write(report, pid.to_bytes(4, "big", signed=True))
                running[pid] = report
                continue
            signal.set_wakeup_fd(-1)
            signal.signal(signal.SIGCHLD, signal.SIG_DFL)
            os.dup2(files[0], 1)
            os.dup2(files[1], 2)
            os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
            os.closerange(3, 4_096)
            request = json.loads(message)
            os.environ.clear()
            os.environ.update(request["environment"])
            sys.argv = ["tight", *request["arguments"]]
            return


if __name__ == "__main__":
    for name in MODULES:
        import_module(name)
    gc.freeze()  # no fork looks through the imported modules for garbage
    serve_forks(socket.socket(fileno=int(sys.argv[1])))
    sys.modules["__main__"] = sys.modules["tight_ledger.cli"]  # processes that a command spawns import this one first
    sys.modules["tight_ledger.cli"].main()
