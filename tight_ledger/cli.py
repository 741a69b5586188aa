"""What ./tight runs once everything is installed."""

import asyncio
import fcntl
import json
import os
import re
import secrets
import signal
import socket
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, TypeVar, cast, get_args

import typer
import uvicorn
from sqlalchemy import URL, make_url
from sqlalchemy.exc import OperationalError

from tight_ledger.api.app import CLOCK_VARIABLE, CODE_VARIABLE, DISK_VARIABLE, LOG_VARIABLE, URL_VARIABLE, clock_of, create_app
from tight_ledger.api.logs import LogForm, configure
from tight_ledger.bench import devices as line_bench
from tight_ledger.bench import faults as faults_bench
from tight_ledger.bench import find as finding_bench
from tight_ledger.bench import importing as importing_bench
from tight_ledger.bench import record as recording_bench
from tight_ledger.bench import runs as run_bench
from tight_ledger.bench import tools as crib_bench
from tight_ledger.core.base.errors import Fault, Invalid
from tight_ledger.core.simulation import hands
from tight_ledger.demo.load import load
from tight_ledger.devices.simulated import SimulatedWrench
from tight_ledger.services.context import Context, index
from tight_ledger.services.people import seal_names
from tight_ledger.services.pins import reset_at_the_server
from tight_ledger.store import backups, schema
from tight_ledger.store import shop as shop_store
from tight_ledger.store.database import Database, DatabaseAway
from tight_ledger.store.server import BACKUP, HOST, OWNER, RESTORING, SERVING, PrivateServer

app = typer.Typer(add_completion=False, no_args_is_help=True)
bench_app = typer.Typer(no_args_is_help=True, help="Measure, side by side.")
app.add_typer(bench_app, name="bench")
PORT = 8437
STOPS_WITHIN_S = 3
"""How long open requests may take when the program is asked to stop; a slow client is not waited for."""
MOST_CONNECTIONS = 2_000
TRIES = 10
"""How often a start waits a second for the database."""
_T = TypeVar("_T")

DataOption = Annotated[Path, typer.Option(envvar="TIGHT_DATA", help="Where everything is kept.")]
DATA = Path(__file__).parents[1] / ".tight" / "data"


@contextmanager
def lock(data: Path) -> Iterator[None]:
    """One program at a time works on a data directory."""
    data.mkdir(parents=True, exist_ok=True)
    with (data / "lock").open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError as error:
            file.seek(0)
            where = file.read().strip() or "elsewhere"
            raise Invalid("data", f"Tight Ledger is running on {data} already, at {where}.", "Use that one, or stop it first.") from error
        file.truncate(0)
        yield


@dataclass(frozen=True, slots=True)
class Databases:
    """The URLs of the accounts that own, serve, and load backups aside; the last is missing where an existing server has none."""

    owner: URL
    serving: URL
    restoring: URL | None
    disk: Path | None = None
    """Where our own server keeps its files."""

    @property
    def places(self) -> backups.Places:
        """Where backups are made and restored.

        Raises:
            Invalid: there is no account for it.
        """
        if self.restoring is None:
            raise Invalid("TIGHT_RESTORE_DATABASE_URL", "There is no database to load a backup aside.", "Set its address and account.")
        return backups.Places(self.owner, self.restoring)


def _of(server: PrivateServer) -> Databases:
    return Databases(server.url(OWNER), server.url(SERVING), server.url(RESTORING, BACKUP), server.directory)


@contextmanager
def databases(data: Path) -> Iterator[Databases]:
    """The databases: an existing server's, or our own, started for the while."""
    serving, owner = os.environ.get("TIGHT_DATABASE_URL"), os.environ.get("TIGHT_OWNER_DATABASE_URL")
    restoring = os.environ.get("TIGHT_RESTORE_DATABASE_URL")
    if serving and owner:
        urls = [make_url(url).set(drivername="mariadb+pymysql") for url in (owner, serving, restoring) if url]
        yield Databases(urls[0], urls[1], urls[2] if restoring else None)
        return
    if serving or owner:
        raise Invalid("TIGHT_DATABASE_URL", "One of two addresses is missing.", "Set TIGHT_DATABASE_URL and TIGHT_OWNER_DATABASE_URL.")
    server = PrivateServer(data)
    server.start()
    server.watch()
    try:
        yield _of(server)
    finally:
        server.stop()


def prepare(found: Databases, keep: Path | None = None) -> None:
    """Tables up to date, rights exactly as they should be, specs indexed as this version searches them.

    Args:
        keep: the folder for a backup that is made, and tried, before the tables are changed.
    """
    if keep is not None and found.restoring is not None and schema.is_older(found.owner):
        typer.echo(f"Before the update: {backups.keep(found.places, keep, MOST_BACKUPS).file}")
    schema.migrate(found.owner)
    schema.grant(found.owner, found.serving)
    schema.check_rights(found.serving)
    asyncio.run(_with_context(found.serving, seal_names))
    if indexed := asyncio.run(_with_context(found.serving, index)):
        typer.echo(f"{indexed} spec revisions were indexed.")


async def _with_context(serving: URL, work: Any, now: Callable[[], datetime] | None = None) -> Any:
    database = Database(serving)
    try:
        return await work(Context(database, now=now or clock_of(None)))
    finally:
        await database.close()


@contextmanager
def bench_databases() -> Iterator[tuple[URL, URL]]:
    """The owner's and the serving account's URLs of a database that is made for one measurement and removed after it."""
    DATA.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="bench-", dir=DATA.parent) as made:
        server = PrivateServer(Path(made))
        server.start()
        try:
            prepare(_of(server))
            yield server.url(OWNER), server.url(SERVING)
        finally:
            server.stop()


def require_free(port: int) -> None:
    """Refuse a port that something else listens on."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError as error:
            raise Invalid("port", f"Port {port} is taken.", "Give another: ./tight up --port 8440.") from error


@app.command()
def up(
    data: DataOption = DATA,
    port: Annotated[int, typer.Option(help="The port on loopback.")] = PORT,
    empty: Annotated[bool, typer.Option("--empty", help="Without the demo; the first person sets the shop up.")] = False,
    clock: Annotated[Path | None, typer.Option(hidden=True, help="A file with the time that it is, for tests and pictures.")] = None,
    processes: Annotated[int, typer.Option(min=1, max=64, help="Server processes on this port.")] = 1,
    log: Annotated[str, typer.Option(help="Logs on standard error: text, json or off.")] = "text",
) -> None:
    """Start everything, print the address, stop everything on Ctrl-C."""
    if log not in get_args(LogForm):
        raise Invalid("log", f"“{log}” is no form of logs.", "Choose text, json or off.")
    form = cast(LogForm, log)
    configure(form)
    require_free(port)
    signal.signal(signal.SIGTERM, _stop)
    now = clock_of(clock)
    with lock(data), databases(data) as found:
        serving = found.serving
        _while_the_database_comes_back(lambda: prepare(found, data / "backups"))
        if not empty and _while_the_database_comes_back(lambda: asyncio.run(_with_context(serving, load, now))):
            typer.echo("The demo workshop was loaded.")
        code = _setup_code(data)
        if asyncio.run(_with_context(serving, lambda context: context.database.run(shop_store.read))) is None:
            typer.echo(f"The shop is not set up yet. Whoever does needs this code: {code}")
        (data / "lock").write_text(f"http://{HOST}:{port}")
        typer.echo(f"Tight Ledger: http://{HOST}:{port}  (Ctrl-C stops it)")
        common: dict[str, Any] = {
            "host": HOST, "port": port, "log_level": "warning", "access_log": False, "limit_concurrency": MOST_CONNECTIONS,
            "timeout_graceful_shutdown": STOPS_WITHIN_S,
        }  # fmt: skip
        if processes == 1:
            uvicorn.run(create_app(serving, now=now, disk=found.disk, setup_code=code), **common)
            _served(found)
            return
        os.environ |= {URL_VARIABLE: serving.render_as_string(hide_password=False), LOG_VARIABLE: form, CLOCK_VARIABLE: str(clock or "")}
        os.environ |= {DISK_VARIABLE: str(found.disk or ""), CODE_VARIABLE: code}
        uvicorn.run("tight_ledger.api.app:from_environment", factory=True, workers=processes, **common)
        _served(found)


def _while_the_database_comes_back(work: Callable[[], _T]) -> _T:
    """Do work that is safe to repeat; it is repeated if the database goes away in the middle of a start."""
    for _ in range(TRIES):
        try:
            return work()
        except (OperationalError, DatabaseAway):
            time.sleep(1)
    return work()


def _stop(_signal: int, _frame: object) -> None:
    """Asked to stop: as with Ctrl-C, the database is stopped in order too."""
    raise KeyboardInterrupt


def _setup_code(data: Path) -> str:
    """The code with which the shop is set up; kept, so that it is the same after another start."""
    file = data / "setup-code"
    if not file.exists():
        with os.fdopen(os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as new:
            new.write(f"{secrets.randbelow(100_000_000):08d}")
    return file.read_text().strip()


def _served(found: Databases) -> None:
    """After it has served: the state before a restore is no longer needed."""
    if found.restoring is not None:
        backups.forget_before(found.places)


@app.command("openapi")
def openapi() -> None:
    """Print the OpenAPI document."""
    typer.echo(json.dumps(create_app().openapi(), indent=1, ensure_ascii=False, sort_keys=True))


PassphraseOption = Annotated[str, typer.Option(envvar="TIGHT_BACKUP_PASSPHRASE", help="To encrypt it; better in the environment.")]
MOST_BACKUPS = 14
_EVERY = re.compile(r"(\d+)([mhd])")


def _seconds(every: str) -> int:
    """Number of seconds of `30m`, `6h`, `1d`."""
    match = _EVERY.fullmatch(every)
    if match is None or int(match[1]) == 0:
        raise Invalid("every", f"“{every}” is no length of time.", "Write 30m, 6h or 1d.")
    return int(match[1]) * {"m": 60, "h": 3_600, "d": 86_400}[match[2]]


@app.command()
def backup(
    place: Path,
    data: DataOption = DATA,
    every: Annotated[str, typer.Option(help="Again and again: 30m, 6h, 1d; PLACE is a folder.")] = "",
    keep: Annotated[int, typer.Option(min=1, help="Number of backups that stay in the folder.")] = MOST_BACKUPS,
    passphrase: PassphraseOption = "",
) -> None:
    """Write a backup, tried by restoring it aside; the program may be running."""
    pause = _seconds(every) if every else None
    while True:
        with _running_or_started(data) as found:
            done = backups.keep(found.places, place, keep, passphrase) if pause else backups.backup(found.places, place, passphrase)
        typer.echo(f"{done.file}: {done.entries} entries, every seal holds.")
        if pause is None:
            return
        time.sleep(pause)


@app.command()
def restore(
    file: Path,
    data: DataOption = DATA,
    discard: Annotated[int, typer.Option(help="Number of entries that are here now, not in the backup, and given up.")] = 0,
    passphrase: PassphraseOption = "",
) -> None:
    """Put a verified backup in the place of what is there; the program must be stopped."""
    with lock(data), databases(data) as found:
        done = backups.restore(found.places, file, passphrase, discard)
        prepare(found)
    typer.echo(f"{done.file}: {done.entries} entries restored, every seal holds; {done.discarded} discarded.")


@app.command()
def person(
    name: Annotated[str, typer.Argument(help="As it stands on the list.")],
    keeper: Annotated[bool, typer.Option("--keeper", help="Make them keeper too.")] = False,
    data: DataOption = DATA,
) -> None:
    """Give somebody a PIN for one sign-in, on the server itself; the program may be running."""
    with _running_or_started(data) as found:
        pin = asyncio.run(_with_context(found.serving, lambda context: reset_at_the_server(context, name, keeper=keeper)))
    typer.echo(f"{name} signs in with {pin}, and chooses another PIN then.")


@contextmanager
def _running_or_started(data: Path) -> Iterator[Databases]:
    """The running databases, or those of a server started for the while."""
    running = PrivateServer(data).running_port()
    if running is None or "TIGHT_DATABASE_URL" in os.environ:
        with databases(data) as found:
            schema.migrate(found.owner)
            yield found
    else:
        server = PrivateServer(data)
        server.port = running
        yield _of(server)


@app.command()
def wrench(
    code: Annotated[str, typer.Argument(help="What the run's screen shows.")],
    address: Annotated[str, typer.Option(help="Where the application is.")] = f"http://{HOST}:{PORT}",
    manner: Annotated[str, typer.Option(help="slow, steady, fast or jerky.")] = "steady",
    seed: int = 1,
    at_once: Annotated[bool, typer.Option("--at-once", help="A pull takes no time.")] = False,
) -> None:
    """A simulated torque-angle wrench on the line: it pulls whatever the run asks for."""
    url = address.replace("http", "ws", 1).rstrip("/") + "/api/devices"
    tool = SimulatedWrench(url, code, manner=hands.require_manner(manner), seed=seed, in_real_time=not at_once)
    typer.echo(f"{asyncio.run(tool.work())} pulls made; the run asks for nothing more that a wrench can do.")


@bench_app.command("run")
def bench_run() -> None:
    """Compiling a plan, replaying a run, one entry more."""
    _print(run_bench.run())


@bench_app.command("line")
def bench_line(
    runs: Annotated[int, typer.Option(help="Runs going on at once.")] = 50,
    pulls: Annotated[int, typer.Option(help="Pulls of each, up to the first task: 10.", max=10)] = 8,
    apart: Annotated[bool, typer.Option(help="The second screens on another server process.")] = False,
) -> None:
    """Runs with a wrench on the line each, and a second screen on each."""
    with bench_databases() as (_, serving):
        asyncio.run(_with_context(serving, load))
        _print(line_bench.run(serving, runs=runs, pulls=pulls, apart=apart))


@bench_app.command("record")
def bench_record(clients: int = 16, entries: Annotated[int, typer.Option(help="Entries a client.")] = 60) -> None:
    """Durable entries a second through the API, beside bare inserts of the same rows."""
    with bench_databases() as (owner, serving):
        asyncio.run(_with_context(serving, load))
        _print(recording_bench.record(owner, serving, clients=clients, entries=entries))


@bench_app.command("faults")
def bench_faults(kills: int = 300, clients: int = 8, seed: int = 1) -> None:
    """Kills of server, database and screens at random points: nothing acknowledged may be lost, doubled or misplaced."""
    DATA.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="bench-", dir=DATA.parent) as made:
        _print(faults_bench.run(Path(made), kills=kills, clients=clients, seed=seed))


@bench_app.command("find")
def bench_find(
    specs: Annotated[int, typer.Option(help="How many specs are searched.")] = 1_000_000,
    each: Annotated[int, typer.Option(help="Questions of each class.")] = 100,
) -> None:
    """A search among many specs, beside its bare SQL and beside an exhaustive search."""
    with bench_databases() as (owner, serving):
        _print(finding_bench.run(owner, serving, specs=specs, each=each))


@bench_app.command("import")
def bench_import(rows: Annotated[int, typer.Option(help="Rows of the table.")] = 50_000) -> None:
    """A large CSV coming in: its rehearsal, its writing, and the memory that they need."""
    with bench_databases() as (_, serving):
        asyncio.run(_with_context(serving, load))
        _print(importing_bench.run(serving, rows=rows))


@bench_app.command("crib")
def bench_crib(specs: int = 10_000, tools: int = 200) -> None:
    """The shop's figures against its wrenches."""
    _print(crib_bench.run(specs, tools))


def _print(result: dict[str, Any]) -> None:
    typer.echo(json.dumps({"at": datetime.now(UTC).isoformat(timespec="seconds"), **result}, indent=1))


def main() -> None:
    """Every refusal is one sentence."""
    try:
        app()
    except Fault as fault:
        print(f"{fault.fault} {fault.remedy}", file=sys.stderr)
        sys.exit(1)


if __name__ == "__main__":
    main()
