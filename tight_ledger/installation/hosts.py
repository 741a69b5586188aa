"""Simulates three hosts on one machine.

Each host has its own address, database node, application process and proxy, and a network cable that can be cut. A host is a
network namespace of the Linux kernel. A bridge connects the hosts; they reach one another only through their cables.
"""

import os
import shutil
import subprocess
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path

from tight_ledger.core.base.errors import Invalid
from tight_ledger.installation.programs import Program, answers, over, start_proxy
from tight_ledger.store.galera import ClusterNode, form
from tight_ledger.store.server import Location, free_port

NAMES = ("one", "two", "three")
NETWORK, BRIDGE = "10.77.19", "tight-bridge"


def _ip(*words: str) -> None:
    done = subprocess.run(["ip", *words], capture_output=True, text=True, check=False)
    if done.returncode:
        raise Invalid("network", f"ip {' '.join(words)}: {done.stderr.strip()}", "Run it as root on a machine that allows namespaces.")


def lacking() -> str:
    """Why such hosts cannot be made on this machine; empty if they can."""
    if os.geteuid() != 0:
        return "It takes root to make network namespaces."
    missing = [program for program in ("ip", "haproxy", "setpriv") if shutil.which(program, path=f"{os.environ['PATH']}:/usr/sbin") is None]
    return f"Not installed: {', '.join(missing)}." if missing else ""


class Host:
    """One host with its programs and its cable."""

    def __init__(self, number: int, name: str) -> None:
        """A host that is not connected yet."""
        self.name, self.address, self._space = name, f"{NETWORK}.{number}", f"tight-{name}"
        self._cable = f"tight-{number}"
        self.place = Location(self.address, f"{NETWORK}.0/255.255.255.0", ("ip", "netns", "exec", self._space))
        self.port = free_port()
        """The port of its proxy. Tablets connect to it."""
        self.node: ClusterNode | None = None
        self.program: Program | None = None
        self.proxy: subprocess.Popen[bytes] | None = None

    def wire(self) -> None:
        """Make its network namespace and connect it to the bridge."""
        inner = f"{self._cable}-in"
        _ip("netns", "add", self._space)
        _ip("link", "add", self._cable, "type", "veth", "peer", "name", inner)
        _ip("link", "set", inner, "netns", self._space)
        _ip("-n", self._space, "addr", "add", f"{self.address}/24", "dev", inner)
        for device in ("lo", inner):
            _ip("-n", self._space, "link", "set", device, "up")
        _ip("link", "set", self._cable, "master", BRIDGE)
        self.mend()

    def cut(self) -> None:
        """Cut its cable. Its programs keep running."""
        _ip("link", "set", self._cable, "down")

    def mend(self) -> None:
        """Repair its cable."""
        _ip("link", "set", self._cable, "up")

    @property
    def ready(self) -> bool:
        """Whether its process is ready. It is asked on the host itself, so that a cut cable makes no difference."""
        assert self.program is not None
        return answers(f"http://127.0.0.1:{self.program.port}/api/ready", self.place)

    def begin(self) -> None:
        """Start its process and its proxy.

        Raises:
            Invalid: one of them does not start.
        """
        assert self.program is not None
        self.program.start()
        self.program.wait()
        self.proxy = start_proxy(self.port, free_port(), [self.program.port] * 2, self.place)

    def die(self) -> None:
        """Kill all its programs at once, as a power cut would."""
        if self.proxy is not None:
            self.proxy.kill()
            self.proxy.wait()
        if self.program is not None:
            self.program.kill()
        if self.node is not None:
            self.node.kill()

    def unwire(self) -> None:
        """Remove its cable and its network namespace."""
        for words in (("link", "del", self._cable), ("netns", "del", self._space)):
            with suppress(Invalid):
                _ip(*words)


class Hosts:
    """Three hosts, arranged as `docs/several-servers.md` describes."""

    def __init__(self, folder: Path) -> None:
        """Nothing is started yet.

        Args:
            folder: holds all their data. Every account must be able to enter it.
        """
        self.folder = folder
        self.all: Sequence[Host] = [Host(number, name) for number, name in enumerate(NAMES, start=1)]

    def connect(self) -> None:
        """Make the network, in place of what a killed start left.

        Raises:
            Invalid: this machine does not allow it.
        """
        self._remove_network()
        _ip("link", "add", BRIDGE, "type", "bridge")
        _ip("addr", "add", f"{NETWORK}.254/24", "dev", BRIDGE)
        _ip("link", "set", BRIDGE, "up")
        for host in self.all:
            host.wire()

    def start(self) -> None:
        """Start the network and the database nodes, then the process and the proxy of each host.

        Raises:
            Invalid: something does not start.
        """
        self.connect()
        nodes = form(self.folder, [host.place for host in self.all])
        for number, (host, node) in enumerate(zip(self.all, nodes, strict=True)):
            host.node, environment = node, over(nodes, self.folder, number)
            host.program = Program(self.folder / f"host-{host.name}", "--behind", host.address, environment=environment, place=host.place)
            host.begin()

    def stop_programs(self) -> None:
        """Stop proxies and processes: what a process has begun it finishes. The nodes keep running."""
        for host in self.all:
            if host.proxy is not None:
                host.proxy.terminate()
                host.proxy.wait()
            if host.program is not None:
                host.program.stop()

    def stop(self) -> None:
        """Stop the programs in order, then remove the network."""
        self.stop_programs()
        for host in self.all:
            if host.node is not None:
                host.node.stop()
        self._remove_network()

    def _remove_network(self) -> None:
        for host in self.all:
            host.unwire()
        with suppress(Invalid):
            _ip("link", "del", BRIDGE)
