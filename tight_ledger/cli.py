"""What ./tight runs once everything is installed.

A command imports what it alone needs, so that the others start at once.
"""

import asyncio
import json
import os
import re
import signal
import ssl
import sys
import time
from pathlib import Path
from typing import Annotated, cast, get_args

import typer

from tight_ledger.bench.commands import bench_app
from tight_ledger.core.base.errors import Fault, Invalid
from tight_ledger.installation.databases import (
    DATA,
    MOST_BACKUPS,
    Databases,
    databases,
    lock,
    prepare,
    running_or_started,
    setup_code,
    while_the_database_comes_back,
    with_context,
)
from tight_ledger.installation.proof import at_start, begin_again, check_copy, check_file, checkpoint, known_outside, look, words
from tight_ledger.services.context import Context
from tight_ledger.store import backups
from tight_ledger.store import shop as shop_store
from tight_ledger.store.server import HOST

app = typer.Typer(add_completion=False, no_args_is_help=True)
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
    processes: Annotated[int, typer.Option(min=1, max=64, help="Server processes on this port.")] = 1,
    log: Annotated[str, typer.Option(help="Logs on standard error: text, json or off.")] = "text",
    metrics: Annotated[str, typer.Option(help="Tell figures in Prometheus' form at this address, as 127.0.0.1:8409.")] = "",
) -> None:
    """Start everything, print the address, stop everything on Ctrl-C."""
    from tight_ledger.api.app import Settings
    from tight_ledger.api.logs import LogForm, configure
    from tight_ledger.api.metrics import address_of
    from tight_ledger.demo.load import load
    from tight_ledger.installation.serving import place, serve

    if log not in get_args(LogForm):
        raise Invalid("log", f"“{log}” is no form of logs.", "Choose text, json or off.")
    form = cast(LogForm, log)
    configure(form)
    if metrics and processes > 1:
        raise Invalid("metrics", "Several processes cannot tell figures at one address.", "Start each by itself, behind a proxy.")
    if metrics:
        address_of(metrics)
    where = place(host or (), port, behind or ())
    signal.signal(signal.SIGTERM, _stop)
    with lock(data), databases(data) as found:
        serving = found.serving
        for told in while_the_database_comes_back(lambda: prepare(found, data / "backups")):
            typer.echo(told)
        if not empty and while_the_database_comes_back(lambda: asyncio.run(with_context(found, load))):
            typer.echo("The demo workshop was loaded.")
        if at_start(found):
            typer.echo("The ledger is long: it is verified beside the work, and home says what was found.")
        code = setup_code(data)
        if not while_the_database_comes_back(lambda: asyncio.run(with_context(found, is_set_up))):
            typer.echo(f"The shop is not set up yet. Whoever does needs this code: {code}")
        (data / "lock").write_text(where.url)
        typer.echo(f"Tight Ledger: {where.url}  (Ctrl-C stops it)")
        url = serving.render_as_string(hide_password=False)
        settings = Settings(serving=url, log=form, disk=found.disk, setup_code=code, metrics=metrics)
        if (kept := found.keeper) is not None:
            settings = settings.model_copy(update={"proof": kept.folder, "copies": kept.copies})
        serve(where, settings, processes, data / "tls")
        _served(found)


async def is_set_up(context: Context) -> bool:
    """Whether there is a shop."""
    return await context.database.run(shop_store.read) is not None


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
    from tight_ledger.api.app import create_app

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
            done = (
                backups.keep(found.places, place, known_outside(found), keep, passphrase)
                if pause
                else backups.backup(found.places, place, known_outside(found), passphrase)
            )
        typer.echo(f"{done.file}: {done.entries} entries, every seal holds.")
        if pause is None:
            return
        time.sleep(pause)


@app.command()
def verify(
    file: Annotated[Path | None, typer.Argument(help="A card as JSON; without it the ledger is verified.")] = None,
    data: DataOption = DATA,
    whole: Annotated[
        bool, typer.Option("--whole", help="Every entry, on all cores; otherwise what came since the last checkpoint.")
    ] = False,
    against: Annotated[Path | None, typer.Option(help="A file with checkpoints that somebody kept: they must fit too.")] = None,
    key: Annotated[str, typer.Option(help="Of a card or a copy: the public key that must have signed, as public-key.txt says it.")] = "",
    copy: Annotated[bool, typer.Option("--copy", help="A depot's copy, at TIGHT_DATABASE_URL; with --key and --against.")] = False,
) -> None:
    """Look whether anything was changed, removed or added; the program may be running."""
    if copy:
        checked = check_copy(os.environ.get("TIGHT_DATABASE_URL", ""), key, against)
        typer.echo("\n".join(checked.lines))
        raise typer.Exit(0 if checked.holds else 1)
    if file is not None:
        told = check_file(file, key)
        typer.echo("\n".join(told.lines))
        raise typer.Exit(0 if told.holds else 1)
    with running_or_started(data) as found:
        said, done = look(found, whole=whole, against=against, tell=_progress)
    typer.echo("\n".join(words(said, done)))
    raise typer.Exit(0 if said.finding is None else 1)


def _progress(done: int, whole: int) -> None:
    if sys.stderr.isatty():
        typer.echo(f"\r{done} of {whole} records …", err=True, nl=done == whole)


@app.command("checkpoint")
def make_checkpoint(data: DataOption = DATA) -> None:
    """Make a checkpoint over everything now, and print it; the program may be running."""
    with running_or_started(data) as found:
        made = checkpoint(found)
    if made is not None:
        typer.echo(f"{made.note}\nIts code: {made.checkpoint.code}")


library_app = typer.Typer(no_args_is_help=True, help="The library of specs, from a centre to its depots.")
app.add_typer(library_app, name="library")


@library_app.command("write")
def write_library(file: Path, data: DataOption = DATA) -> None:
    """Write every checked spec that is in force into FILE, and the signed note beside it."""
    from tight_ledger.installation.library import write

    with running_or_started(data) as found:
        typer.echo(write(found, file))


@library_app.command("bring")
def bring_library(
    file: Path,
    key: Annotated[str, typer.Option(help="The centre's public key, as its public-key.txt says it.")],
    by: Annotated[str, typer.Option(help="The lead who brings it in.")],
    data: DataOption = DATA,
) -> None:
    """Put the library of a centre on file: checked there, in force here. All of it or nothing."""
    from tight_ledger.installation.library import bring

    with running_or_started(data) as found:
        typer.echo(bring(found, file, key, by))


@app.command("rebuild")
def rebuild_lists(data: DataOption = DATA) -> None:
    """Make what lists are read from again from the ledger; the program may be running."""
    from tight_ledger.services.summaries import rebuild

    with running_or_started(data) as found:
        many = asyncio.run(with_context(found, rebuild))
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
        done = backups.restore(found.places, file, known_outside(found), passphrase, discard)
        for told in prepare(found):
            typer.echo(told)
        for told in begin_again(found):
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
    from tight_ledger.services.pins import erase_at_the_server, reset_at_the_server

    with running_or_started(data) as found:
        if erase:
            called = asyncio.run(with_context(found, lambda context: erase_at_the_server(context, name)))
            typer.echo(f"From now on: {called}. Every seal holds. Backups from before still hold the name.")
            return
        pin = asyncio.run(with_context(found, lambda context: reset_at_the_server(context, name, keeper=keeper)))
    typer.echo(f"{name} signs in with {pin}, and chooses another PIN then.")


def line_url(address: str) -> str:
    """Where a device speaks to the application."""
    return address.replace("http", "ws", 1).rstrip("/") + "/api/devices"


def trusted(address: str, authority: Path | None) -> ssl.SSLContext | None:
    """The authorities that a device trusts; None without HTTPS."""
    return ssl.create_default_context(cafile=authority) if address.startswith("https") else None


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
    from tight_ledger.core.simulation import hands
    from tight_ledger.devices.simulated import SimulatedWrench

    tool = SimulatedWrench(
        line_url(address),
        code,
        manner=hands.require_manner(manner),
        seed=seed,
        in_real_time=not at_once,
        trusts=trusted(address, authority),
    )
    typer.echo(f"{asyncio.run(tool.work())} pulls made; the run asks for nothing more that a wrench can do.")


@app.command()
def gauge(
    code: Annotated[str, typer.Argument(help="What the run's screen shows.")],
    address: Annotated[str, typer.Option(help="Where the application is.")] = f"http://{HOST}:{PORT}",
    seed: int = 1,
    waits_s: Annotated[float, typer.Option(help="How long it waits while nothing is to be read [s].")] = 600.0,
    at_once: Annotated[bool, typer.Option("--at-once", help="A reading takes no time.")] = False,
    authority: Annotated[Path | None, typer.Option(help="The certificate of the server's authority: tls/authority.pem.")] = None,
) -> None:
    """A simulated gauge on the line: it reads whatever the run asks for, on a joint that answers to what was done."""
    from tight_ledger.devices.simulated import SimulatedGauge

    tool = SimulatedGauge(line_url(address), code, seed=seed, in_real_time=not at_once, trusts=trusted(address, authority), waits_s=waits_s)
    typer.echo(f"{asyncio.run(tool.work())} readings taken; the run asks for nothing more that a gauge can read.")


@app.command()
def cluster(
    folder: Annotated[Path, typer.Option(help="Where it is kept; everybody may enter it.")] = Path("/var/tmp/tight-cluster"),
    port: Annotated[int, typer.Option(help="The proxy's port.")] = PORT,
) -> None:
    """Three database nodes, two processes and a proxy on this machine, as on three hosts: for trying."""
    from tight_ledger.installation.programs import Arrangement

    signal.signal(signal.SIGTERM, _stop)
    arranged = Arrangement(folder, port)
    try:
        arranged.start()
        for node in arranged.nodes:
            typer.echo(f"node {node.name}: {HOST}:{node.port}, process {node.process_id}")
        for program in arranged.programs:
            typer.echo(f"process {program.data.name}: {HOST}:{program.port}, process {program.process_id}")
        typer.echo(f"Tight Ledger: {arranged.url}  (Ctrl-C stops it; the proxy's figures: http://{HOST}:{arranged.watch}/metrics)")
        typer.echo("Kill any of them by its number: it is started again.")
        arranged.revive()
    finally:
        arranged.stop()


def main() -> None:
    """Every refusal is one sentence."""
    try:
        app()
    except Fault as fault:
        print(f"{fault.fault} {fault.remedy}", file=sys.stderr)
        sys.exit(1)


if __name__ == "__main__":
    main()
