"""What ./tight runs once everything is installed."""

import asyncio
import fcntl
import json
import os
import socket
import sys
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, cast, get_args

import typer
import uvicorn
from sqlalchemy import URL, make_url

from tight_ledger.api.app import CLOCK_VARIABLE, LOG_VARIABLE, URL_VARIABLE, clock_of, create_app
from tight_ledger.api.logs import LogForm, configure
from tight_ledger.bench import devices as line_bench
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
from tight_ledger.store import backups, schema
from tight_ledger.store.database import Database
from tight_ledger.store.server import BACKUP, HOST, OWNER, SERVING, PrivateServer

app = typer.Typer(add_completion=False, no_args_is_help=True)
bench_app = typer.Typer(no_args_is_help=True, help="Measure, side by side.")
app.add_typer(bench_app, name="bench")
PORT = 8437

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


@contextmanager
def databases(data: Path) -> Iterator[tuple[URL, URL]]:
    """The owner's and the serving account's URLs: an existing server's, or those of our own, started for the while."""
    serving, owner = os.environ.get("TIGHT_DATABASE_URL"), os.environ.get("TIGHT_OWNER_DATABASE_URL")
    if serving and owner:
        yield make_url(owner).set(drivername="mariadb+pymysql"), make_url(serving).set(drivername="mariadb+pymysql")
        return
    if serving or owner:
        raise Invalid("TIGHT_DATABASE_URL", "One of two addresses is missing.", "Set TIGHT_DATABASE_URL and TIGHT_OWNER_DATABASE_URL.")
    server = PrivateServer(data)
    server.start()
    try:
        yield server.url(OWNER), server.url(SERVING)
    finally:
        server.stop()


def prepare(owner: URL, serving: URL) -> None:
    """Tables up to date, rights exactly as they should be, specs indexed as this version searches them."""
    schema.migrate(owner)
    schema.grant(owner, serving)
    schema.check_rights(serving)
    if indexed := asyncio.run(_with_context(serving, index)):
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
            prepare(server.url(OWNER), server.url(SERVING))
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
    now = clock_of(clock)
    with lock(data), databases(data) as (owner, serving):
        prepare(owner, serving)
        if not empty and asyncio.run(_with_context(serving, load, now)):
            typer.echo("The demo workshop was loaded.")
        (data / "lock").write_text(f"http://{HOST}:{port}")
        typer.echo(f"Tight Ledger: http://{HOST}:{port}  (Ctrl-C stops it)")
        common: dict[str, Any] = {"host": HOST, "port": port, "log_level": "warning", "access_log": False}
        if processes == 1:
            uvicorn.run(create_app(serving, now=now), **common)
            return
        os.environ |= {URL_VARIABLE: serving.render_as_string(hide_password=False), LOG_VARIABLE: form, CLOCK_VARIABLE: str(clock or "")}
        uvicorn.run("tight_ledger.api.app:from_environment", factory=True, workers=processes, **common)


@app.command("openapi")
def openapi() -> None:
    """Print the OpenAPI document."""
    typer.echo(json.dumps(create_app().openapi(), indent=1, ensure_ascii=False, sort_keys=True))


@app.command()
def backup(file: Path, data: DataOption = DATA) -> None:
    """Write a verified backup; the program may be running."""
    with _running_or_started(data) as owner:
        done = backups.backup(owner, file)
    typer.echo(f"{done.file}: {done.entries} entries, every seal holds.")


@app.command()
def restore(file: Path, data: DataOption = DATA) -> None:
    """Put a verified backup in the place of what is there; the program must be stopped."""
    with lock(data), databases(data) as (owner, serving):
        done = backups.restore(owner, file, BACKUP)
        prepare(owner, serving)
    typer.echo(f"{done.file}: {done.entries} entries restored, every seal holds.")


@contextmanager
def _running_or_started(data: Path) -> Iterator[URL]:
    """The owner's URL of the running database, or of one started for the while."""
    running = PrivateServer(data).running_port()
    if running is None or "TIGHT_DATABASE_URL" in os.environ:
        with databases(data) as (owner, _):
            schema.migrate(owner)
            yield owner
    else:
        server = PrivateServer(data)
        server.port = running
        yield server.url(OWNER)


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
