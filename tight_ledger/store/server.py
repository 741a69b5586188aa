"""A MariaDB of our own: private data directory, loopback, a port and a socket that no other server uses."""

import getpass
import json
import os
import random
import secrets
import shutil
import signal
import socket
import subprocess
import threading
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import pymysql
from sqlalchemy import URL

from tight_ledger.core.base.errors import Invalid

LEAST_FREE_BYTES = 400_000_000
LOOKS_EVERY_S = 0.5
STARTS = 3
"""How often a start is tried before it is given up."""
FIRST_PORT, PORTS_TRIED = 10_000, 100
DATABASE, HOST = "tight", "127.0.0.1"
OWNER, SERVING, RESTORING = "tight_owner", "tight_app", "tight_restoring"
BACKUP, BEFORE = "tight_restore", "tight_before"
"""The database in which backups are loaded aside; and the state before a restore."""


def free_port() -> int:
    """A TCP port on loopback that nothing listens on, and that the system gives to no outgoing connection meanwhile."""
    first_of_outgoing = 32_768
    with suppress(OSError, ValueError):
        first_of_outgoing = int(Path("/proc/sys/net/ipv4/ip_local_port_range").read_text().split()[0])
    choice = random.SystemRandom()
    for _ in range(PORTS_TRIED):
        port = choice.randrange(FIRST_PORT, max(first_of_outgoing, FIRST_PORT + 1))
        with socket.socket() as probe, suppress(OSError):
            probe.bind((HOST, port))
            return port
    with socket.socket() as probe:
        probe.bind((HOST, 0))
        return int(probe.getsockname()[1])


def _cache_bytes() -> int:
    """An eighth of the machine's memory for MariaDB's cache, between 128 MB and 1 GB."""
    memory = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    return min(max(memory // 8, 128 << 20), 1 << 30)


@dataclass(frozen=True, slots=True)
class Location:
    """Where a program runs, and at which address it listens."""

    address: str = HOST
    clients: str = HOST
    """The addresses that may connect, in MariaDB's notation."""
    inside: tuple[str, ...] = ()
    """The words before a command that make it run there, such as `ip netns exec NAME`; none for this machine itself."""

    def command(self, *words: str, account: str | None = None) -> list[str]:
        """The full command that runs some words there.

        Args:
            account: the account of this machine that it runs as; by default whoever starts it.
        """
        changed = ("setpriv", f"--reuid={account}", f"--regid={account}", "--clear-groups") if account is not None else ()
        return [*self.inside, *changed, *words]


HERE = Location()


class PrivateServer:
    """One server over one data directory."""

    def __init__(self, directory: Path, *, known: Path | None = None, runs_as: str | None = None, place: Location = HERE) -> None:
        """A server over a directory, not started yet.

        Args:
            known: the folder with the passwords of the accounts, if several servers share them.
            runs_as: the account of this machine that the server runs as; by default whoever starts it.
            place: where it runs, and who may connect.
        """
        self.directory = directory.resolve()
        self.data = self.directory / "mariadb"
        self.runs_as, self.place = runs_as, place
        self._known = (known or directory).resolve()
        self.port = 0
        self._process: subprocess.Popen[bytes] | None = None
        self._stopping, self._starting = threading.Event(), threading.Lock()

    def _credentials(self) -> dict[str, str]:
        path = self._known / "credentials.json"
        known = dict(json.loads(path.read_text())) if path.exists() else {}
        if fresh := {user: secrets.token_urlsafe(24) for user in (OWNER, SERVING, RESTORING) if user not in known}:
            known |= fresh
            written = path.with_suffix(".new")
            with os.fdopen(os.open(written, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "w") as file:
                json.dump(known, file)
            written.rename(path)
        return known

    def url(self, user: str, database: str = DATABASE) -> URL:
        """Where an account finds its database."""
        password = self._credentials()[user]
        return URL.create("mariadb+pymysql", user, password, self.place.address, self.port, database, {"charset": "utf8mb4"})

    @property
    def socket_path(self) -> Path:
        """The path of the socket; short, because a socket's path may have 107 bytes at most."""
        return Path("/tmp") / f"tight-{os.getuid()}-{self.port}.sock"

    def start(self, port: int | None = None, *, again: bool = False) -> None:
        """Create the data directory if it is not there, start, and wait until it answers.

        Args:
            port: by default a free one.
            again: after it died; then little room is no reason to refuse, because what is there can still be read.

        Raises:
            Invalid: no MariaDB on this machine, no room, or the server does not come up.
        """
        daemon, installer = shutil.which("mariadbd") or shutil.which("mariadbd", path="/usr/sbin"), shutil.which("mariadb-install-db")
        if daemon is None or installer is None:
            raise Invalid("database", "MariaDB is not installed.", "Run ./tight up, which installs it, or set TIGHT_DATABASE_URL.")
        self.directory.mkdir(parents=True, exist_ok=True)
        free = shutil.disk_usage(self.directory).free
        if free < LEAST_FREE_BYTES and not again:
            raise Invalid("disk", f"Only {free // 1_000_000} MB are free in {self.directory}.", "Make room for at least 400 MB.")
        self._stop_orphan()
        self.port = port or free_port()
        as_root = ["--user=root"] if os.geteuid() == 0 and self.runs_as is None else []
        temporary = self.directory / "tmp"
        temporary.mkdir(exist_ok=True)
        if self.runs_as is not None:
            for each in (self.directory, temporary):
                shutil.chown(each, self.runs_as, self.runs_as)
        if not (self.data / "mysql").exists():
            command = [installer, "--no-defaults", f"--datadir={self.data}", "--auth-root-authentication-method=socket"]
            command += [f"--auth-root-socket-user={getpass.getuser()}", "--skip-test-db", *as_root]
            alone = os.environ | {"TMPDIR": str(temporary)}  # two installers in one folder take each other's tables
            command = self.place.command(*command, account=self.runs_as)
            done = subprocess.run(command, capture_output=True, text=True, check=False, env=alone)
            if done.returncode:
                raise Invalid("database", "The data directory could not be created.", done.stderr.strip()[-300:])
        command = [
                daemon, "--no-defaults", f"--datadir={self.data}", f"--bind-address={self.place.address}", f"--port={self.port}",
                f"--socket={self.socket_path}", f"--pid-file={self.directory / 'mariadb.pid'}", f"--tmpdir={temporary}",
                f"--log-error={self.directory / 'mariadb.log'}", "--character-set-server=utf8mb4",
                "--collation-server=utf8mb4_unicode_ci", "--skip-log-bin", "--skip-name-resolve",
                "--innodb-flush-log-at-trx-commit=1", f"--innodb-buffer-pool-size={_cache_bytes()}", "--max-allowed-packet=64M", *as_root,
        ]  # fmt: skip
        for attempt in range(STARTS):
            words = self.place.command(*command, *self._options(), account=self.runs_as)
            self._process = subprocess.Popen(words, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
            try:
                self._wait()
                self._accounts()
                return
            except (Invalid, pymysql.err.Error):  # it may have been killed while it came up
                if attempt == STARTS - 1:
                    raise
                self._end()

    def _options(self) -> list[str]:
        """What a kind of server adds to the command line; asked at each start."""
        return []

    def _running(self) -> tuple[int, list[bytes]] | None:
        """The process that works on this data directory, and its command line."""
        with suppress(ValueError, OSError):
            pid = int((self.directory / "mariadb.pid").read_text())
            command = Path(f"/proc/{pid}/cmdline").read_bytes().split(b"\0")
            if f"--datadir={self.data}".encode() in command:
                return pid, command
        return None

    def running_port(self) -> int | None:
        """The port of a server that works on this data directory; None if there is none."""
        found = self._running()
        ports = [part for part in found[1] if part.startswith(b"--port=")] if found else []
        return int(ports[0].removeprefix(b"--port=")) if ports else None

    @property
    def process_id(self) -> int:
        """The process of the server; 0 before it is started."""
        return self._process.pid if self._process is not None else 0

    def _stop_orphan(self) -> None:
        """End a server that an earlier, killed start left on this data directory."""
        if (found := self._running()) is None:
            return
        with suppress(ProcessLookupError):
            os.kill(found[0], signal.SIGTERM)
        for _ in range(600):
            if self._running() is None:
                return
            time.sleep(0.1)

    def _wait(self) -> None:
        for _ in range(600):
            if self._process is not None and self._process.poll() is not None:
                break
            if self._answers():
                return
            time.sleep(0.05)
        log = (self.directory / "mariadb.log").read_text(errors="replace").strip().splitlines()
        raise Invalid("database", "MariaDB did not start.", log[-1] if log else f"Look into {self.directory}.")

    def _answers(self) -> bool:
        """Whether a server listens on the socket."""
        with socket.socket(socket.AF_UNIX) as probe, suppress(OSError):
            probe.connect(str(self.socket_path))
            return True
        return False

    def _root(self) -> "pymysql.connections.Connection[pymysql.cursors.Cursor]":
        return pymysql.connect(unix_socket=str(self.socket_path), user=getpass.getuser())

    def _accounts(self) -> None:
        known, clients = self._credentials(), self.place.clients
        with self._root() as root, root.cursor() as cursor:
            for user, password in known.items():
                cursor.execute(f"CREATE USER IF NOT EXISTS '{user}'@'{clients}' IDENTIFIED BY %s", (password,))
            cursor.execute(f"CREATE DATABASE IF NOT EXISTS {DATABASE}")
            for database in (DATABASE, BACKUP, BEFORE):
                cursor.execute(f"GRANT ALL ON {database}.* TO '{OWNER}'@'{clients}' WITH GRANT OPTION")
            cursor.execute(f"GRANT ALL ON {BACKUP}.* TO '{RESTORING}'@'{clients}'")

    def watch(self) -> None:
        """Start the server again, on the same port, whenever it dies; until `stop`."""

        def look() -> None:
            while not self._stopping.wait(LOOKS_EVERY_S):
                with self._starting:
                    if self._process is not None and self._process.poll() is not None and not self._stopping.is_set():
                        with suppress(Invalid):  # tried again at the next look
                            self.start(self.port, again=True)

        threading.Thread(target=look, name="database watch", daemon=True).start()

    def stop(self) -> None:
        """Shut down in order."""
        self._stopping.set()
        with self._starting:
            self._end()

    def _end(self) -> None:
        if self._process is not None and self._process.poll() is None:
            self._process.terminate()
            self._process.wait(timeout=60)
        self.socket_path.unlink(missing_ok=True)

    def kill(self) -> None:
        """Kill the server, as a power cut would."""
        if self._process is not None:
            self._process.kill()
            self._process.wait()
