"""A card's file, checked by itself: seals, names, the checkpoint, and every word of it. No server and no database is needed.

`docs/verify.md` says the same for whoever writes their own; `web/verify/` does the same in a browser, on its own.
"""

import base64
import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from typing import Any
from uuid import UUID

from tight_ledger.core.base.canonical_json import canonical_json
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.models import Model
from tight_ledger.core.proof.checkpoints import SignedCheckpoint, read_checkpoint
from tight_ledger.core.proof.keys import PublicKey, SigningKey, exactly, place_of, read_public
from tight_ledger.core.proof.trees import is_in, leaf_hash
from tight_ledger.core.records.facts import commitment
from tight_ledger.core.records.seals import FIRST, seal

FORMAT, VERSION = "tight-ledger run", 2
HEAD = "tight-ledger card"
Document = Mapping[str, Any]


class CardCheck(Model):
    """What a check found."""

    holds: bool
    lines: tuple[str, ...]
    """In sentences: what holds; the first thing that does not, and where."""


class _Wrong(Exception):
    """The first thing that does not hold."""


# the words of the card, signed ----------------------------------------------------------------------------------------


def parts(document: Document) -> Iterator[tuple[str, str]]:
    """Each part of what is shown, with its digest: SHA-256 over its canonical JSON, in hex. Of a list each item is a part."""
    for name, value in sorted({**{f"card.{key}": item for key, item in document["card"].items()}, "names": document["names"]}.items()):
        items = enumerate(value, start=1) if isinstance(value, list) else ()
        yield name, hashlib.sha256(canonical_json(len(value) if isinstance(value, list) else value)).hexdigest()
        for number, item in items:
            yield f"{name}.{number}", hashlib.sha256(canonical_json(item)).hexdigest()


def signed_words(document: Document, run: str, key: SigningKey) -> dict[str, str]:
    """The signature over what is shown: the text that is signed, and the signature over it in base64."""
    text = "".join((f"{HEAD}\n", f"run {run}\n", *(f"{name} {digest}\n" for name, digest in parts(document))))
    return {"text": text, "signature": base64.b64encode(key.sign(text.encode())).decode()}


# the check ------------------------------------------------------------------------------------------------------------


def check_card(text: str | bytes, expected: PublicKey | None = None) -> CardCheck:
    """Whether a card's file is what was sealed and signed.

    Args:
        text: the file.
        expected: the key that it must be signed by; None for the one that it names itself.
    """
    lines: list[str] = []
    try:
        document = _read(text)
        _check(document, expected, lines)
    except _Wrong as wrong:
        return CardCheck(holds=False, lines=(*lines, str(wrong)))
    except (LookupError, TypeError, ValueError, AttributeError, Invalid) as error:
        return CardCheck(holds=False, lines=(*lines, f"This is not a whole card: {error}."))
    return CardCheck(holds=True, lines=tuple(lines))


def _read(text: str | bytes) -> Document:
    try:
        document = json.loads(text)
    except (json.JSONDecodeError, UnicodeDecodeError) as error:
        raise _Wrong("This is no JSON file.") from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise _Wrong("This is no card's file.")
    if document.get("version") != VERSION:
        raise _Wrong(f"This card is of version {document.get('version')}; this check knows version {VERSION}.")
    return document


def _check(document: Document, expected: PublicKey | None, lines: list[str]) -> None:
    proof, run = document["proof"], UUID(document["card"]["sheet"]["run"])
    heads = {str(run): chain(document["entries"], run)}
    lines.append(f"{len(document['entries'])} entries: every seal holds.")
    people = {person: chain(entries, UUID(person)) for person, entries in document["people"].items()}
    for each in document["names"]:
        _check_name(each, document["people"].get(each["person"], []))
    if document["names"]:
        lines.append(f"{', '.join(each['name'] for each in document['names'])}: the names that were sealed.")
    if proof is None:
        lines.append("No checkpoint covers it: seals alone say that nothing was changed in it, not that nobody sealed it again.")
        return
    key = read_public(proof["key"])
    if expected is not None and key != expected:
        raise _Wrong(f"It is signed by {key.written}, not by the key that was given.")
    _check_words(document, key, run)
    lines.append("Every word of the card is the one that was signed.")
    signed = read_checkpoint(proof["checkpoint"])
    if not signed.is_signed_by(key):
        raise _Wrong("The checkpoint is not signed by the card's key.")
    covered = [_check_covered(stream, seals, proof, signed) for stream, seals in {**heads, **people}.items()]
    point, last = signed.checkpoint, len(document["entries"])
    lines.append(f"The checkpoint of {point.time:%Y-%m-%d %H:%M} UTC, code {point.code}, covers entries 1 to {covered[0]}.")
    if covered[0] < last:
        lines.append(f"Entries {covered[0] + 1} to {last} came after it: their seals hold, no checkpoint covers them yet.")
    lines.append(f"Signed by {key.written}. Compare it with the key that the shop has told you.")


def chain(entries: Sequence[Mapping[str, Any]], stream: UUID) -> list[bytes]:
    """The seals of a stream's entries, by number, all of which hold.

    Raises:
        _Wrong: one does not, or belongs to another record.
    """
    before, seals = FIRST, []
    for number, each in enumerate(entries, start=1):
        stored: str = each["stored"]
        if each["seq"] != number:
            raise _Wrong(f"Record {stream}: entry {number} is missing.")
        found = seal(before, stored.encode())
        if found.hex() != each["seal"]:
            raise _Wrong(f"Record {stream}, entry {number}: its text is not the one that was sealed.")
        said = json.loads(stored)
        if str(stream) not in (said.get("run"), said.get("stream")) or said.get("seq") != number:
            raise _Wrong(f"Record {stream}, entry {number} belongs to another record.")
        seals.append(found)
        before = found
    return seals


def _check_name(name: Mapping[str, str], entries: Sequence[Mapping[str, Any]]) -> None:
    notes = (json.loads(each["stored"]) for each in entries)
    sealed = [note["digest"] for note in notes if note["kind"] == "named"]
    if not sealed or commitment(bytes.fromhex(name["salt"]), name["name"]) != sealed[-1]:
        raise _Wrong(f"“{name['name']}” is not the name that was sealed.")


def _check_words(document: Document, key: PublicKey, run: UUID) -> None:
    signed = document["proof"]["words"]
    if not key.holds(exactly(signed["signature"]), signed["text"].encode()):
        raise _Wrong("The list of what the card says is not signed by the card's key.")
    head, named, *stated = signed["text"].splitlines()
    if (head, named) != (HEAD, f"run {run}"):
        raise _Wrong("The signature belongs to another card.")
    known = dict(line.rsplit(" ", 1) for line in stated)
    now = dict(parts(document))
    for name in sorted(known.keys() | now.keys(), key=lambda part: (part.count("."), part), reverse=True):
        if known.get(name) != now.get(name):
            raise _Wrong(f"The card says something else than what was signed: {name}.")


def _check_covered(stream: str, seals: Sequence[bytes], proof: Mapping[str, Any], signed: SignedCheckpoint) -> int:
    """The number of the entry that the checkpoint covers; an exception if its proof does not hold."""
    leaf, point = proof["leaves"][stream], signed.checkpoint
    data = leaf_hash(place_of(UUID(stream), leaf["seq"], seals[leaf["seq"] - 1]))
    if not is_in(data, leaf["place"], point.size, [bytes.fromhex(each) for each in leaf["inclusion"]], point.root):
        raise _Wrong(f"Record {stream}: the checkpoint does not cover its entry {leaf['seq']} with this seal.")
    return int(leaf["seq"])
