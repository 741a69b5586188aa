"""What ./tight runs once everything is installed."""

import asyncio
import json
import re
import signal
import ssl
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any, cast, get_args

import typer

from tight_ledger.api.app import Settings, clock_of, create_app
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
from tight_ledger.installation.databases import (
    DATA,
    MOST_BACKUPS,
    Databases,
    bench_databases,
    databases,
    lock,
    prepare,
    running_or_started,
    setup_code,
    while_the_database_comes_back,
    with_context,
)
from tight_ledger.installation.serving import place, serve
from tight_ledger.services.pins import erase_at_the_server, reset_at_the_server
from tight_ledger.services.summaries import rebuild
from tight_ledger.store import backups
from tight_ledger.store import shop as shop_store
from tight_ledger.store.server import HOST

app = typer.Typer(add_completion=False, no_args_is_help=True)
bench_app = typer.Typer(no_args_is_help=True, help="Measure, side by side.")
app.add_typer(bench_app, name="bench")
PORT = 8437

DataOption = Annotated[Path, typer.Option(envvar="TIGHT_DATA", help="Where everything is kept.")]
HostOption = Annotated[
    list[str] | None, typer.Option(help="Serve the network over HTTPS: the name or address by which tablets call it; several if need be.")
]
BehindOption = Annotated[list[str] | None, typer.Option(help="The name of a proxy in front, which asks over loopback.")]


@app.command()
def up(
    data: DataOption = DATA,
    port: Annotated[int, typer.Option(help="The port.")] = PORT,
    host: HostOption = None,
    behind: BehindOption = None,
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
    where = place(host or (), port, behind or ())
    signal.signal(signal.SIGTERM, _stop)
    with lock(data), databases(data) as found:
        serving = found.serving
        for told in while_the_database_comes_back(lambda: prepare(found, data / "backups")):
            typer.echo(told)
        if not empty and while_the_database_comes_back(lambda: asyncio.run(with_context(serving, load, clock_of(clock)))):
            typer.echo("The demo workshop was loaded.")
        code = setup_code(data)
        if asyncio.run(with_context(serving, lambda context: context.database.run(shop_store.read))) is None:
            typer.echo(f"The shop is not set up yet. Whoever does needs this code: {code}")
        (data / "lock").write_text(where.url)
        typer.echo(f"Tight Ledger: {where.url}  (Ctrl-C stops it)")
        url = serving.render_as_string(hide_password=False)
        serve(where, Settings(serving=url, log=form, clock=clock, disk=found.disk, setup_code=code), processes, data / "tls")
        _served(found)


def _stop(_signal: int, _frame: object) -> None:
    """Asked to stop: as with Ctrl-C, the database is stopped in order too."""
    raise KeyboardInterrupt


def _served(found: Databases) -> None:
    """After it has served: the state before a restore is no longer needed."""
    if found.restoring is not None:
        backups.forget_before(found.places)


@app.command("openapi")
def openapi() -> None:
    """Print the OpenAPI document."""
    typer.echo(json.dumps(create_app().openapi(), indent=1, ensure_ascii=False, sort_keys=True))


PassphraseOption = Annotated[str, typer.Option(envvar="TIGHT_BACKUP_PASSPHRASE", help="To encrypt it; better in the environment.")]
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
        with running_or_started(data) as found:
            done = backups.keep(found.places, place, keep, passphrase) if pause else backups.backup(found.places, place, passphrase)
        typer.echo(f"{done.file}: {done.entries} entries, every seal holds.")
        if pause is None:
            return
        time.sleep(pause)


@app.command("rebuild")
def rebuild_lists(data: DataOption = DATA) -> None:
    """Make what lists are read from again from the ledger; the program may be running."""
    with running_or_started(data) as found:
        many = asyncio.run(with_context(found.serving, rebuild))
    typer.echo(f"{many} runs in short, made again from their entries.")


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
        for told in prepare(found):
            typer.echo(told)
    typer.echo(f"{done.file}: {done.entries} entries restored, every seal holds; {done.discarded} discarded.")


@app.command()
def person(
    name: Annotated[str, typer.Argument(help="As it stands on the list.")],
    keeper: Annotated[bool, typer.Option("--keeper", help="Make them keeper too.")] = False,
    erase: Annotated[bool, typer.Option("--erase", help="Erase the name of somebody who has left.")] = False,
    data: DataOption = DATA,
) -> None:
    """Give somebody a PIN for one sign-in, on the server itself; the program may be running."""
    with running_or_started(data) as found:
        if erase:
            called = asyncio.run(with_context(found.serving, lambda context: erase_at_the_server(context, name)))
            typer.echo(f"From now on: {called}. Every seal holds. Backups from before still hold the name.")
            return
        pin = asyncio.run(with_context(found.serving, lambda context: reset_at_the_server(context, name, keeper=keeper)))
    typer.echo(f"{name} signs in with {pin}, and chooses another PIN then.")


@app.command()
def wrench(
    code: Annotated[str, typer.Argument(help="What the run's screen shows.")],
    address: Annotated[str, typer.Option(help="Where the application is.")] = f"http://{HOST}:{PORT}",
    manner: Annotated[str, typer.Option(help="slow, steady, fast or jerky.")] = "steady",
    seed: int = 1,
    at_once: Annotated[bool, typer.Option("--at-once", help="A pull takes no time.")] = False,
    authority: Annotated[Path | None, typer.Option(help="The certificate of the server's authority: tls/authority.pem.")] = None,
) -> None:
    """A simulated torque-angle wrench on the line: it pulls whatever the run asks for."""
    trusts = ssl.create_default_context(cafile=authority) if address.startswith("https") else None
    url = address.replace("http", "ws", 1).rstrip("/") + "/api/devices"
    tool = SimulatedWrench(url, code, manner=hands.require_manner(manner), seed=seed, in_real_time=not at_once, trusts=trusts)
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
        asyncio.run(with_context(serving, load))
        _print(line_bench.run(serving, runs=runs, pulls=pulls, apart=apart))


@bench_app.command("record")
def bench_record(clients: int = 16, entries: Annotated[int, typer.Option(help="Entries a client.")] = 60) -> None:
    """Durable entries a second through the API, beside bare inserts of the same rows."""
    with bench_databases() as (owner, serving):
        asyncio.run(with_context(serving, load))
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
        asyncio.run(with_context(serving, load))
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
