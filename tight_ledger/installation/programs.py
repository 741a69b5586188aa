"""This program as processes of their own: one over a data directory; or, as on three hosts, over a cluster and behind a proxy."""

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Mapping, Sequence
from contextlib import suppress
from pathlib import Path

from sqlalchemy import URL

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.galera import ClusterNode, form
from tight_ledger.store.server import HERE, HOST, OWNER, SERVING, Location, free_port

ROOT = Path(__file__).parents[2]
PROXY = ROOT / "deploy/haproxy.cfg"
STARTS_WITHIN_S, LOOKS_EVERY_S = 120, 1.0
NAMES = ("one", "two")


class Program:
    """`./tight up` as a process of its own."""

    def __init__(self, data: Path, *options: str, environment: Mapping[str, str] | None = None, place: Location = HERE) -> None:
        self.data, self.options, self.port, self.place = data, options, free_port(), place
        self.environment = dict(environment or {})
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start it, or start it again after a kill."""
        words = (sys.executable, "-m", "tight_ledger.cli", "up", "--port", str(self.port), "--log", "json", *self.options)
        command = self.place.command(*words)
        known = os.environ | {"TIGHT_DATA": str(self.data), "PYTHONPATH": str(ROOT)} | self.environment
        self.data.mkdir(parents=True, exist_ok=True)
        with self.log.open("a") as log:
            self.process = subprocess.Popen(command, env=known, stdout=subprocess.DEVNULL, stderr=log)

    @property
    def process_id(self) -> int:
        """Its process; 0 before it is started."""
        return self.process.pid if self.process is not None else 0

    @property
    def log(self) -> Path:
        """What it tells while it works, a line a request."""
        return self.data / "log.jsonl"

    def wait(self) -> None:
        """Until it takes requests.

        Raises:
            Invalid: it does not start.
        """
        until = time.monotonic() + STARTS_WITHIN_S
        while not answers(f"http://{HOST}:{self.port}/api/ready", self.place):
            if time.monotonic() > until or self.process is None or self.process.poll() is not None:
                raise Invalid("program", f"The program over {self.data} did not start.", f"It says why in {self.log}.")
            time.sleep(0.05)

    def kill(self) -> None:
        """Kill it, as a power cut would; its database goes on."""
        assert self.process is not None
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        """Stop in order."""
        if self.process is not None:
            self.process.terminate()
            self.process.wait(timeout=60)


def answers(url: str, place: Location = HERE) -> bool:
    """Whether an address answers with status 200.

    Args:
        place: where the question is asked from.
    """
    if place.inside:
        asks = f"import urllib.request; urllib.request.urlopen({url!r}, timeout=2)"
        return subprocess.run(place.command(sys.executable, "-c", asks), capture_output=True, check=False).returncode == 0
    with suppress(urllib.error.URLError, OSError), urllib.request.urlopen(url, timeout=2) as answer:
        return int(answer.status) == 200
    return False


def database(nodes: Sequence[ClusterNode], account: str, first: int = 0) -> URL:
    """The URL by which an account connects to a cluster.

    Args:
        first: number of the node that is tried first.
    """
    order = (*nodes[first:], *nodes[:first])
    several = tuple(f"{node.place.address}:{node.port}" for node in order)
    return order[0].url(account).set(host=None, port=None).update_query_dict({"host": several})


def over(nodes: Sequence[ClusterNode], folder: Path, first: int = 0) -> dict[str, str]:
    """The environment variables of a process that uses a cluster.

    Args:
        folder: where the key of the installation and its checkpoints are kept.
        first: number of the node that the process tries first.
    """
    known = {"TIGHT_DATABASE_URL": database(nodes, SERVING, first), "TIGHT_OWNER_DATABASE_URL": database(nodes, OWNER)}
    environment = {variable: url.render_as_string(hide_password=False) for variable, url in known.items()}
    return environment | {"TIGHT_PROOF": str(folder / "proof")}


def start_proxy(port: int, watch: int, programs: Sequence[int], place: Location = HERE) -> "subprocess.Popen[bytes]":
    """Start HAProxy before two processes, and wait until they answer through it.

    Args:
        port: the port of the proxy, at the address of its place.
        watch: the port of its figures, on loopback.
        programs: the ports of the two processes, on loopback.

    Raises:
        Invalid: it does not answer.
    """
    named = {"TIGHT_BIND": f"{place.address}:{port}", "TIGHT_WATCH": f"{HOST}:{watch}"}
    named |= {f"TIGHT_{name.upper()}": f"{HOST}:{each}" for name, each in zip(NAMES, programs, strict=True)}
    command = place.command("haproxy", "-db", "-f", str(PROXY))
    proxy = subprocess.Popen(command, env=os.environ | named, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    until = time.monotonic() + STARTS_WITHIN_S
    while not answers(f"http://{place.address}:{port}/api/ready"):
        if time.monotonic() > until:
            proxy.kill()
            raise Invalid("proxy", "The proxy does not answer.", f"Look whether port {port} of {place.address} is free.")
        time.sleep(0.05)
    return proxy


class Arrangement:
    """Three nodes, two processes and a proxy before them, on this machine."""

    def __init__(self, folder: Path, port: int | None = None, *options: str) -> None:
        """Nothing is started yet; each process gets the options.

        Args:
            folder: everything is kept there; everybody may enter it.
            port: of the proxy.
        """
        self.folder, self.port, self.watch, self.options = folder, port or free_port(), free_port(), options
        self.nodes: tuple[ClusterNode, ...] = ()
        self.programs: tuple[Program, ...] = ()
        self.proxy: subprocess.Popen[bytes] | None = None

    @property
    def url(self) -> str:
        """What to open."""
        return f"http://{HOST}:{self.port}"

    def start(self) -> None:
        """The nodes, then one process after the other, then the proxy.

        Raises:
            Invalid: something does not start.
        """
        self.nodes = form(self.folder)
        self.programs = tuple(self._program(place, name) for place, name in enumerate(NAMES))
        for program in self.programs:
            program.start()
            program.wait()
        self.proxy = start_proxy(self.port, self.watch, [program.port for program in self.programs])

    def _program(self, place: int, name: str) -> Program:
        environment = over(self.nodes, self.folder, place)
        return Program(self.folder / f"process-{name}", "--behind", HOST, *self.options, environment=environment)

    def revive(self) -> None:
        """Start again what has died, from now on, until it is interrupted: as systemd does on three hosts."""
        for node in self.nodes:
            node.watch()
        while True:
            time.sleep(LOOKS_EVERY_S)
            for program in self.programs:
                if program.process is not None and program.process.poll() is not None:
                    program.start()

    def stop(self) -> None:
        """The proxy, the processes, the nodes; the node that goes last has everything."""
        if self.proxy is not None:
            self.proxy.terminate()
            self.proxy.wait()
        for program in self.programs:
            program.stop()
        for node in self.nodes:
            node.stop()
