"""Nodes of a MariaDB Galera cluster on this machine: the arrangement of three hosts, for trying and for tests."""

import os
import re
import shutil
import subprocess
from collections.abc import Sequence
from configparser import ConfigParser
from dataclasses import dataclass, field, replace
from pathlib import Path

import pymysql

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.server import HERE, Location, PrivateServer, free_port

NAMES = ("one", "two", "three")
SETTINGS = Path(__file__).parents[2] / "deploy/galera.cnf"
"""The file that ships for three hosts; nodes here are started with exactly what it says."""
CACHE = "256M"
PRECEDENCE = ("nice", "-n", "-10")
"""Gives a node priority over other programs: if a node does not run for a second, the other nodes take it for dead."""
_POSITION = re.compile(r"Recovered position:\s*([0-9a-f-]{36}:-?\d+)")
_WHERE = f"{os.environ.get('PATH', '')}:/usr/sbin"


def settings() -> dict[str, str]:
    """What every node is started with."""
    read = ConfigParser()
    read.read(SETTINGS)
    return dict(read["mariadbd"])


def lacking() -> list[str]:
    """The Debian packages that a cluster needs and that are not here."""
    programs = {"mariadbd": "mariadb-server", "wsrep_sst_rsync": "mariadb-server", "rsync": "rsync"}
    found = {package for program, package in programs.items() if shutil.which(program, path=_WHERE) is None}
    return sorted(found | (set() if Path(settings()["wsrep_provider"]).exists() else {"galera-4"}))


@dataclass(slots=True)
class _Ports:
    group: int = field(default_factory=free_port)
    increments: int = field(default_factory=free_port)
    copies: int = field(default_factory=free_port)


class ClusterNode(PrivateServer):
    """One node: a server over a data directory of its own, in a group with others."""

    def __init__(self, folder: Path, name: str, place: Location = HERE) -> None:
        """A node that is not started.

        Started by root, it runs as `mysql`, because Galera refuses to copy data by rsync as root; and it gets priority.
        """
        root = os.geteuid() == 0
        at = replace(place, inside=(*place.inside, *PRECEDENCE)) if root else place
        super().__init__(folder / name, known=folder, runs_as="mysql" if root else None, place=at)
        self.name, self.port, self.ports = name, free_port(), _Ports()
        self.group: tuple[ClusterNode, ...] = ()
        self.begins = False
        """Whether it begins a group instead of joining it."""

    def _options(self) -> list[str]:
        given, group, joins, at = settings(), self.ports.group, not self.begins, self.place.address
        given["wsrep_provider_options"] += (
            f";gmcast.listen_addr=tcp://{at}:{group};ist.recv_addr={at}:{self.ports.increments};base_port={group}"
        )
        others = ",".join(f"{node.place.address}:{node.ports.group}" for node in self.group)
        given |= {
            "innodb_buffer_pool_size": CACHE, "wsrep_cluster_address": f"gcomm://{others if joins else ''}", "wsrep_node_name": self.name,
            "wsrep_node_address": f"{at}:{group}", "wsrep_sst_receive_address": f"{at}:{self.ports.copies}",
            "wsrep_node_incoming_address": f"{at}:{self.port}",
        }  # fmt: skip
        if joins and (position := self.position()) is not None:
            given["wsrep_start_position"] = position
        return [f"--{name.replace('_', '-')}={value}" for name, value in given.items()]

    def _answers(self) -> bool:
        """Whether it listens and has what the group has."""
        return super()._answers() and self.status().get("wsrep_local_state_comment") == "Synced"

    def _accounts(self) -> None:
        """The accounts are made in the node that begins; the others have them from the group."""
        if self.begins:
            super()._accounts()

    def position(self) -> str | None:
        """Up to where this node's data reach, after whatever ended it; None before it was ever in a group."""
        if not (self.data / "grastate.dat").exists():
            return None
        written = self.directory / "recovery.log"
        written.unlink(missing_ok=True)
        daemon, provider = shutil.which("mariadbd", path=_WHERE) or "mariadbd", settings()["wsrep_provider"]
        command = [daemon, "--no-defaults", f"--datadir={self.data}", "--wsrep-recover", f"--log-error={written}", "--skip-networking"]
        command += [f"--socket={self.socket_path}", f"--tmpdir={self.directory / 'tmp'}", f"--wsrep-provider={provider}"]
        subprocess.run(self.place.command(*command, account=self.runs_as), capture_output=True, check=False, timeout=120)
        found = _POSITION.findall(written.read_text(errors="replace")) if written.exists() else []
        return found[-1] if found else None

    def status(self) -> dict[str, str]:
        """What the node says of itself and its group; empty if it does not answer."""
        try:
            with self._root() as root, root.cursor() as cursor:
                cursor.execute("SHOW GLOBAL STATUS LIKE 'wsrep\\_%'")
                return {str(name): str(value) for name, value in cursor.fetchall()}
        except pymysql.err.Error:
            return {}


def form(folder: Path, places: Sequence[Location] = (HERE, HERE, HERE)) -> tuple[ClusterNode, ...]:
    """Form a cluster of three nodes: empty ones, or of those that are in the folder already and were stopped.

    Args:
        folder: that everybody may enter: nodes may run as another account.
        places: where each of the nodes runs.

    Raises:
        Invalid: a package is missing, or a node does not come up.
    """
    if missing := lacking():
        raise Invalid("cluster", f"Not installed: {', '.join(missing)}.", "./tight cluster installs them.")
    folder.mkdir(parents=True, exist_ok=True)
    nodes = tuple(ClusterNode(folder, name, place) for name, place in zip(NAMES, places, strict=True))
    for node in nodes:
        node.group = nodes
    furthest = max(nodes, key=_reaches)
    if (state := furthest.data / "grastate.dat").exists():  # all were asked how far they reach: this is where to begin
        state.write_text(state.read_text().replace("safe_to_bootstrap: 0", "safe_to_bootstrap: 1"))
    furthest.begins = True
    furthest.start(furthest.port)
    furthest.begins = False
    for node in nodes:
        if node is not furthest:
            node.start(node.port)
    return nodes


def _reaches(node: ClusterNode) -> int:
    position = node.position()
    return int(position.rsplit(":", 1)[1]) if position else -1
