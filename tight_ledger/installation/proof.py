"""Verifying the ledger of one machine, and making checkpoints from its command line."""

import asyncio
import os
import sys
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.cards import CardCheck, check_card
from tight_ledger.core.proof.checkpoints import SignedCheckpoint, read_checkpoints
from tight_ledger.core.proof.keys import read_public
from tight_ledger.installation.databases import Databases, with_context
from tight_ledger.services import checkpoints
from tight_ledger.services.checkpoints import Verification
from tight_ledger.store import clock, verification
from tight_ledger.store import log as log_store
from tight_ledger.store.addresses import read_url
from tight_ledger.store.verification import KnownOutside, Tell, Verified

LONG = 200_000
"""With about so many entries, verifying what is new takes longer than anybody waits for a start."""


def known_outside(found: Databases, against: Path | None = None) -> KnownOutside:
    """What is known outside of the database.

    Args:
        against: a file with checkpoints that somebody brings: one from a card, or another copy of ours.

    Raises:
        Invalid: a file holds something else.
    """
    brought = read_checkpoints(_text(against)) if against is not None else []
    kept = found.keeper
    if kept is None:
        return KnownOutside(outside=tuple(brought))
    written = kept.written()
    return KnownOutside(key=kept.key, public=kept.public if written else (), outside=(*written, *brought))


def begin_again(found: Databases) -> list[str]:
    """After a restore: a new epoch of the log begins. Returns what to tell.

    On a machine that has none of the checkpoints, the keys that signed them are believed from now on.
    """
    told: list[str] = []
    if found.keeper is not None and not found.keeper.written():
        for key in asyncio.run(with_context(found, lambda context: context.database.run(log_store.keys))):
            if found.keeper.believe(key):
                told.append(f"Its checkpoints were signed by {key}. Compare this with the key that you have kept.")
    checkpoint(found, restored=True)
    return told


def _text(file: Path) -> str:
    try:
        return file.read_text(encoding="utf-8").strip() + "\n"
    except (OSError, UnicodeDecodeError) as error:
        raise Invalid("file", f"{file} cannot be read.", "Give a text file with a checkpoint.") from error


def look(
    found: Databases,
    *,
    whole: bool = False,
    against: Path | None = None,
    tell: Tell = lambda _done, _all: None,
    processes: int | None = None,
) -> tuple[Verification, Verified]:
    """Verify the ledger, and write down that it was verified.

    Args:
        whole: every entry, not only what came since the last checkpoint.
        processes: how many work on it; by default one for each core.

    Raises:
        Invalid: see `known_outside`.
    """
    known, at = known_outside(found, against), clock.now()
    done = verification.verify(found.owner, known, whole=whole, processes=processes or os.cpu_count() or 1, tell=tell)
    said = Verification(
        at=at, whole=whole, entries=done.entries, checkpoints=done.checkpoints, finding=done.findings[0] if done.findings else None
    )
    asyncio.run(with_context(found, lambda context: checkpoints.keep(context, said)))
    return said, done


def at_start(found: Databases) -> bool:
    """Verify what came since the last checkpoint, and make one; a long ledger beside the work, so that nobody waits. Returns whether so."""
    if verification.about(found.owner) < LONG:
        _look_and_go_on(found, None)
        return False
    get_context("spawn").Process(target=_look_and_go_on, args=(found, 1), daemon=True).start()
    return True


def _look_and_go_on(found: Databases, processes: int | None) -> None:
    said, _ = look(found, processes=processes)
    if said.finding is None:
        checkpoint(found)
        return
    print(f"THE LEDGER DOES NOT FIT ITS CHECKPOINTS. {said.finding.words} Run ./tight verify --whole.", file=sys.stderr, flush=True)


def checkpoint(found: Databases, *, restored: bool = False) -> SignedCheckpoint | None:
    """A checkpoint over everything.

    Args:
        restored: whether the tables were just restored from a backup.

    Raises:
        Unreadable: something does not hold; nothing is signed.
    """
    return asyncio.run(with_context(found, lambda context: checkpoints.make(context, restored=restored)))


def words(said: Verification, done: Verified) -> list[str]:
    """What to print."""
    how = "every entry" if said.whole else "what came since the last checkpoint, and that nothing before it is missing"
    lines = [f"{done.entries} entries, {done.checkpoints} checkpoints over {done.size} leaves; looked at {how}."]
    if done.given_up:
        lines.append(f"{done.given_up} checkpoints of an earlier epoch cover what a restore gave up: known, and no alarm.")
    lines += [each.words for each in done.findings]
    return [*lines, "Everything fits." if said.finding is None else "IT DOES NOT FIT. Keep everything as it is, and call for help."]


@dataclass(frozen=True, slots=True)
class CopyCheck:
    """What was found of a copy."""

    holds: bool
    lines: tuple[str, ...]


def check_copy(url: str, key: str, against: Path | None) -> CopyCheck:
    """Check a depot's copy at a centre, every entry of it, by the depot's key and its checkpoints. Nothing is written.

    A copy may be behind: of the checkpoints those count that it has reached.

    Raises:
        Invalid: the address, the key or the checkpoints are missing, or are none.
    """
    if not url or not key or against is None:
        raise Invalid("copy", "Something is missing.", "Set TIGHT_DATABASE_URL, and give --key and --against: the depot's checkpoints.txt.")
    outside = tuple(read_checkpoints(_text(against)))
    known = KnownOutside(public=(read_public(key),), outside=outside, shorter=True)
    done = verification.verify(read_url(url, "TIGHT_DATABASE_URL"), known, whole=True, processes=os.cpu_count() or 1)
    longest = max((each.checkpoint.size for each in outside), default=0)
    lines = [f"{done.entries} entries; the log has {done.size} of the {longest} leaves of the depot's last checkpoint."]
    lines += [each.words for each in done.findings] or ["Everything that is here fits."]
    return CopyCheck(not done.findings, tuple(lines))


def check_file(file: Path, key: str = "") -> CardCheck:
    """Check a card's file.

    Args:
        key: the public key that it must be signed by, as it is written; empty for the one that it names itself.

    Raises:
        Invalid: the file cannot be read, or the key is none.
    """
    return check_card(_text(file), read_public(key) if key else None)
