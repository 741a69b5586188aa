"""The commands of ./tight bench: each prints JSON, with the day and the machine."""

import asyncio
import json
import os
import platform
import tempfile
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated, Any

import typer

from tight_ledger.installation.databases import DATA, bench_databases, with_context

bench_app = typer.Typer(no_args_is_help=True, help="Measure, side by side.")


@bench_app.command("run")
def bench_run() -> None:
    """Compiling a plan, replaying a run, one entry more."""
    from tight_ledger.bench import runs as run_bench

    _print(run_bench.run())


@bench_app.command("adjust")
def bench_adjust(count: Annotated[int, typer.Option(help="Joints of each kind; ten times as many hubs.")] = 2_000) -> None:
    """The adjusters beside a careful rule of fixed steps, on simulated hubs, sleeves, spacers, carriers and bolts."""
    from tight_ledger.bench import adjust as adjust_bench

    _print(adjust_bench.measured(count))


@bench_app.command("lab")
def bench_lab() -> None:
    """A thousand joints of twenty bolts beside the bare NumPy products; the lab's pages."""
    from tight_ledger.bench import lab as lab_bench

    _print(lab_bench.measured())


@bench_app.command("line")
def bench_line(
    runs: Annotated[int, typer.Option(help="Runs going on at once.")] = 50,
    pulls: Annotated[int, typer.Option(help="Pulls of each, up to the first task: 10.", max=10)] = 8,
    apart: Annotated[bool, typer.Option(help="The second screens on another server process.")] = False,
) -> None:
    """Runs with a wrench on the line each, and a second screen on each."""
    from tight_ledger.bench import devices as line_bench
    from tight_ledger.demo.load import load

    with bench_databases() as found:
        asyncio.run(with_context(found, load))
        _print(line_bench.run(found.serving, runs=runs, pulls=pulls, apart=apart))


@bench_app.command("record")
def bench_record(clients: int = 16, entries: Annotated[int, typer.Option(help="Entries a client.")] = 60) -> None:
    """Durable entries a second through the API, beside bare inserts of the same rows."""
    from tight_ledger.bench import record as recording_bench
    from tight_ledger.demo.load import load

    with bench_databases() as found:
        asyncio.run(with_context(found, load))
        _print(recording_bench.record(found.owner, found.serving, clients=clients, entries=entries))


@bench_app.command("verify")
def bench_verify(entries: int = 1_000_000, more: Annotated[int, typer.Option(help="Entries after the checkpoint.")] = 1_000) -> None:
    """A checkpoint and verifications of many entries, beside plain SHA-256 of the same bytes."""
    from tight_ledger.bench import verifying as verify_bench

    with bench_databases() as found:
        _print(verify_bench.run(found, entries, more))


@bench_app.command("cluster")
def bench_cluster(clients: int = 16, seconds: Annotated[float, typer.Option(help="How long each rate is measured.")] = 10.0) -> None:
    """Clients at work while a node, a process and a whole host die and come back."""
    from tight_ledger.bench import clustered as cluster_bench

    with tempfile.TemporaryDirectory(prefix="tight-cluster-", dir="/var/tmp") as made:
        Path(made).chmod(0o755)
        _print(cluster_bench.run(Path(made), clients=clients, seconds=seconds))


@bench_app.command("hosts")
def bench_hosts(clients: int = 16) -> None:
    """Three simulated hosts under load: a cable is cut and repaired, a host is killed and started again."""
    from tight_ledger.bench import hosts as hosts_bench

    with tempfile.TemporaryDirectory(prefix="tight-hosts-", dir="/var/tmp") as made:
        Path(made).chmod(0o755)
        _print(hosts_bench.run(Path(made), clients=clients))


@bench_app.command("years")
def bench_years(
    entries: Annotated[int, typer.Option(help="Of the large one.")] = 1_000_000,
    each: Annotated[int, typer.Option(help="How often each thing is opened.")] = 40,
    backup: Annotated[bool, typer.Option(help="Back the large one up and restore it too.")] = True,
) -> None:
    """Ten years of a fleet beside little: what a person opens, how long it takes, what it reads for it."""
    from tight_ledger.api.logs import configure
    from tight_ledger.bench import years as years_bench

    configure("off")
    _print(years_bench.run(entries, each, backup=backup))


@bench_app.command("faults")
def bench_faults(kills: int = 300, clients: int = 8, seed: int = 1) -> None:
    """Kills of server, database and screens at random points: nothing acknowledged may be lost, doubled or misplaced."""
    from tight_ledger.bench import faults as faults_bench

    DATA.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="bench-", dir=DATA.parent) as made:
        _print(faults_bench.run(Path(made), kills=kills, clients=clients, seed=seed))


@bench_app.command("find")
def bench_find(
    specs: Annotated[int, typer.Option(help="How many specs are searched.")] = 1_000_000,
    each: Annotated[int, typer.Option(help="Questions of each class.")] = 100,
    whole: Annotated[bool, typer.Option("--whole", help="File the specs whole, not only what the search reads of them.")] = False,
) -> None:
    """A search among many specs, beside its bare SQL and beside an exhaustive search."""
    from tight_ledger.bench import find as finding_bench

    with bench_databases() as found:
        _print(finding_bench.run(found, specs=specs, each=each, whole=whole))


@bench_app.command("import")
def bench_import(rows: Annotated[int, typer.Option(help="Rows of the table.")] = 50_000) -> None:
    """A large CSV of specs coming in: its rehearsal, its writing, and the memory that they need; and a file of meters."""
    from tight_ledger.bench import importing as importing_bench
    from tight_ledger.demo.load import load

    with bench_databases() as found:
        asyncio.run(with_context(found, load))
        _print(importing_bench.run(found.serving, rows=rows))


@bench_app.command("along")
def bench_along(tablets: int = 20) -> None:
    """Tablets that ask all at once for what is taken along, and what a press waits meanwhile."""
    from tight_ledger.bench import along as along_bench
    from tight_ledger.demo.load import load

    with bench_databases() as found:
        asyncio.run(with_context(found, load))
        _print(along_bench.run(found.serving, tablets=tablets))


@bench_app.command("crib")
def bench_crib(specs: int = 10_000, tools: int = 200) -> None:
    """The shop's figures against its wrenches."""
    from tight_ledger.bench import tools as crib_bench

    _print(crib_bench.run(specs, tools))


def _print(result: dict[str, Any]) -> None:
    machine = {"cores": os.cpu_count(), "memory_gb": round(os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") / 1e9, 1)}
    said = {"at": datetime.now(UTC).isoformat(timespec="seconds"), "machine": machine | {"kind": platform.machine()}}
    typer.echo(json.dumps(said | result, indent=1))
