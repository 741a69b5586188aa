"""Depots and a centre on this machine, by MariaDB's own replication: the arrangement of many hosts, for trying and for tests.

A depot has two servers: the one that it works on, and a copy without what must not leave, from which the centre reads.
"""

from pathlib import Path

import pymysql

from tight_ledger.core.base.errors import Invalid
from tight_ledger.store.server import DATABASE, HOST, PrivateServer, free_port

DEPLOY = Path(__file__).parents[2] / "deploy"
READER = "tight_reader"
RETRIES_EVERY_S = 1
CENTRE_ID, OUTGOING = 1, 100
"""The server id of the centre; and by how much that of an outgoing server is above its depot's."""


def settings(name: str) -> list[tuple[str, str]]:
    """The lines of a file that ships, as a server is started with them; a name may stand several times."""
    lines = (DEPLOY / name).read_text(encoding="utf-8").splitlines()
    parts = [line.partition("=") for line in lines if "=" in line and not line.startswith("#")]
    return [(left.strip(), right.strip()) for left, _, right in parts]


class LoggingServer(PrivateServer):
    """A server that is started with a file that ships, and from which another reads."""

    def __init__(self, directory: Path, file: str, server_id: int, *more: tuple[str, str]) -> None:
        super().__init__(directory)
        self.port = free_port()
        self._given = [*settings(file), ("server_id", str(server_id)), *more]

    def _options(self) -> list[str]:
        return [f"--{name.replace('_', '-')}={value}" for name, value in self._given]

    def execute(self, *statements: str) -> list[dict[str, object]]:
        """Run statements as the keeper of the server. Returns the rows of the last."""
        with self._root() as root, root.cursor(pymysql.cursors.DictCursor) as cursor:
            for statement in statements:
                cursor.execute(statement)
            root.commit()
            return list(cursor.fetchall())

    def lets_read(self, password: str) -> None:
        """Give another server an account that may read the log."""
        self.execute(
            "SET sql_log_bin = 0", f"CREATE USER IF NOT EXISTS '{READER}'@'{HOST}' IDENTIFIED BY '{password}'",
            f"GRANT REPLICATION SLAVE ON *.* TO '{READER}'@'{HOST}'",
        )  # fmt: skip

    def reads(self, name: str, source: "LoggingServer", password: str) -> None:
        """Follow another server from its first entry on, under a name; it goes on by itself after the line was cut."""
        self.execute(
            f"CHANGE MASTER '{name}' TO MASTER_HOST = '{HOST}', MASTER_PORT = {source.port}, MASTER_USER = '{READER}', "
            f"MASTER_PASSWORD = '{password}', MASTER_USE_GTID = slave_pos, MASTER_CONNECT_RETRY = {RETRIES_EVERY_S}",
            f"START SLAVE '{name}'",
        )

    def stopped_reading(self) -> str:
        """Why it does not follow a source any more; empty while all goes well or the line is cut."""
        rows = self.execute("SHOW ALL SLAVES STATUS")
        return "; ".join(str(row["Last_SQL_Error"]) for row in rows if row["Last_SQL_Error"])

    def applied(self, domain: int) -> str:
        """Up to where it has read what began in a domain."""
        return self._position("gtid_slave_pos", domain)

    def logged(self, domain: int) -> str:
        """Up to where what began in a domain is in its own log; what it leaves out is not."""
        return self._position("gtid_binlog_pos", domain)

    def _position(self, variable: str, domain: int) -> str:
        position = str(self.execute(f"SELECT @@GLOBAL.{variable} AS position")[0]["position"])
        return next((each for each in position.split(",") if each.startswith(f"{domain}-")), "")


class Depot:
    """The two servers of a depot."""

    def __init__(self, folder: Path, name: str, number: int) -> None:
        """Not started yet.

        Args:
            number: of the depot, from 11 to 99: the domain of what it changes.
        """
        if not CENTRE_ID < number < OUTGOING:
            raise Invalid("number", f"{number} is no number of a depot.", f"Give one from {CENTRE_ID + 1} to {OUTGOING - 1}.")
        self.name, self.number, domain = name, number, ("gtid_domain_id", str(number))
        self.works_on = LoggingServer(folder / "works-on", "depot.cnf", number, domain)
        self.outgoing = LoggingServer(folder / "outgoing", "outgoing.cnf", number + OUTGOING, ("gtid_domain_id", str(number + OUTGOING)))

    @property
    def schema(self) -> str:
        """Its database at the centre."""
        return f"depot_{self.name}"

    def start(self, password: str) -> None:
        """Start both, the one reading from the other."""
        for server in (self.works_on, self.outgoing):
            server.start(server.port)
            server.lets_read(password)
        self.outgoing.reads("depot", self.works_on, password)

    def stop(self) -> None:
        """Stop both in order."""
        for server in (self.outgoing, self.works_on):
            server.stop()


def centre(folder: Path, depots: list[Depot]) -> LoggingServer:
    """The server of the centre, not started yet: a schema for each depot."""
    each = []
    for depot in depots:
        each.append((f"{depot.name}.replicate_rewrite_db", f"{DATABASE}->{depot.schema}"))
        each.append((f"{depot.name}.replicate_wild_do_table", f"{depot.schema}.%"))
    return LoggingServer(folder, "centre.cnf", CENTRE_ID, *each)
