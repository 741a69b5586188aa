"""Trees, checkpoints, marks and cards: what is right is shown, and nothing that is wrong passes."""

import copy
import json
import pickle
from datetime import UTC, datetime
from pathlib import Path
from uuid import UUID

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.cards import check_card
from tight_ledger.core.proof.checkpoints import Checkpoint, given_up, read_checkpoint, read_checkpoints
from tight_ledger.core.proof.findings import LedgerRow, first_wrong
from tight_ledger.core.proof.keys import SigningKey, read_public
from tight_ledger.core.proof.trees import Frontier, consistency_ranges, inclusion_ranges, is_in, leaf_hash, only_grew, over, root
from tight_ledger.core.records.seals import FIRST, seal

KEY = SigningKey("tight-ledger/test", bytes(range(32)))
OTHER = SigningKey("tight-ledger/test", bytes(32))
AT = datetime(2026, 11, 28, 3, 4, 5, tzinfo=UTC)
STREAM = UUID(int=7)

# trees ----------------------------------------------------------------------------------------------------------------

LOGS = st.lists(st.binary(max_size=4), min_size=1, max_size=70)


def grown(log):
    grows, nodes = Frontier({}), {}
    for leaf in log:
        nodes |= dict(grows.add(leaf_hash(leaf)))
    assert grows.root == root(nodes, len(log))
    return nodes


@given(LOGS, st.data())
def test_every_leaf_is_shown_to_be_in_its_log_and_no_wrong_one_is(log, data):
    nodes, size = grown(log), len(log)
    place = data.draw(st.integers(0, size - 1))
    proof, stated = [over(nodes, each) for each in inclusion_ranges(place, size)], root(nodes, size)
    assert is_in(leaf_hash(log[place]), place, size, proof, stated)
    assert not is_in(leaf_hash(log[place] + b"!"), place, size, proof, stated)
    assert not is_in(leaf_hash(log[place]), place, size, [*proof, bytes(32)], stated)
    assert not is_in(leaf_hash(log[place]), place, size, proof, bytes(32))
    if proof:
        wrong = data.draw(st.integers(0, len(proof) - 1))
        assert not is_in(leaf_hash(log[place]), place, size, [*proof[:wrong], bytes(32), *proof[wrong + 1 :]], stated)
        assert not is_in(leaf_hash(log[place]), place, size, proof[:-1], stated)


@given(LOGS, st.data())
def test_between_any_two_sizes_it_is_shown_that_the_log_only_grew(log, data):
    nodes, size = grown(log), len(log)
    earlier = data.draw(st.integers(1, size))
    proof, stated = [over(nodes, each) for each in consistency_ranges(earlier, size)], root(nodes, size)
    assert only_grew(earlier, size, root(nodes, earlier), stated, proof)
    changed = grown([log[0] + b"!", *log[1:]])
    assert not only_grew(earlier, size, root(changed, earlier), stated, proof)
    assert not only_grew(earlier, size, root(nodes, earlier), root(changed, size), proof)


# checkpoints and keys -------------------------------------------------------------------------------------------------


def checkpoint(size=5, epoch=1, continues=0):
    return Checkpoint("tight-ledger/test", size, bytes(range(32)), epoch, continues, AT)


@given(st.integers(0, 10**12), st.integers(1, 99), st.integers(0, 10**12), st.binary(min_size=32, max_size=32))
def test_a_checkpoint_reads_as_it_was_written(size, epoch, continues, stated):
    made = Checkpoint("tight-ledger/test", size, stated, epoch, continues, AT)
    read = read_checkpoint(made.signed_by(KEY))
    assert read.checkpoint == made
    assert read.is_signed_by(KEY.public)
    assert not read.is_signed_by(OTHER.public)
    assert read_checkpoints(f"{read.note}\n\n{read.note}\n") == [read, read]


@pytest.mark.parametrize("change", [("5\n", "6\n"), ("epoch 1", "epoch 2"), ("2026", "2027")])
def test_a_checkpoint_with_one_letter_changed_is_not_signed(change):
    assert not read_checkpoint(checkpoint().signed_by(KEY).replace(*change)).is_signed_by(KEY.public)


def test_what_is_no_checkpoint_is_refused():
    note = checkpoint().signed_by(KEY)
    for wrong in ("", "hello\n", note.replace("time", "tide"), note.split("— ")[0]):
        with pytest.raises(Invalid, match="no checkpoint"):
            read_checkpoint(wrong)
    with pytest.raises(Invalid, match="belongs to no checkpoint"):
        read_checkpoints(f"{note}\nsomething else\n")


def test_what_a_restore_gave_up_is_known():
    first, later = checkpoint(size=9), checkpoint(size=12, epoch=2, continues=6)
    assert given_up([first, later], first)
    assert not given_up([first, later], checkpoint(size=6))
    assert not given_up([first, later], later)


def test_a_key_that_was_used_goes_to_another_process():
    KEY.sign(b"x")
    assert pickle.loads(pickle.dumps(KEY)).mark(STREAM, 1, FIRST) == KEY.mark(STREAM, 1, FIRST)


def test_a_public_key_is_copied_whole_or_not_at_all():
    assert read_public(KEY.public.written) == KEY.public
    for wrong in (KEY.public.written[:-2], KEY.public.written.replace("test", "text"), "a+b", ""):
        with pytest.raises(Invalid, match="no public key"):
            read_public(wrong)


# entries --------------------------------------------------------------------------------------------------------------


def rows(count, key=KEY):
    made, before = [], FIRST
    for seq in range(1, count + 1):
        entry_id = UUID(int=100 + seq)
        body = json.dumps(
            {"id": str(entry_id), "stream": str(STREAM), "subject": "tool", "kind": "added", "seq": seq, "at_server": AT.isoformat()}
        )
        found = seal(before, body.encode())
        made.append(
            LedgerRow(
                STREAM, seq, entry_id, "tool", "added", AT.replace(tzinfo=None), None, body.encode(), found, key.mark(STREAM, seq, found)
            )
        )
        before = found
    return made


@given(st.integers(2, 8), st.data())
def test_whatever_is_changed_in_a_stream_is_found_where_it_is(count, data):
    whole, at = rows(count), data.draw(st.integers(1, count))
    assert first_wrong(STREAM, whole, key=KEY) is None
    row = whole[at - 1]
    changes = {
        "changed": row._replace(body=row.body + b" "), "columns": row._replace(kind="checked"),
        "another record's": None, "added": row._replace(mark=OTHER.mark(STREAM, at, row.seal)),
    }  # fmt: skip
    for what, changed in changes.items():
        if changed is not None:
            found = first_wrong(STREAM, [*whole[: at - 1], changed, *whole[at:]], key=KEY)
            assert (found.what, found.seq) == (what, at)
    if at < count:
        assert first_wrong(STREAM, [*whole[: at - 1], *whole[at:]], key=KEY).what == "missing"
    covered = {count: whole[-1].seal}
    if at > 1:
        assert first_wrong(STREAM, whole[: at - 1], covered=covered).what == "removed at the end"
    assert first_wrong(STREAM, [], covered=covered).what == "record removed"
    assert first_wrong(STREAM, whole, covered={at: bytes(32)}).what == "sealed again"


def test_what_a_checkpoint_covers_needs_no_mark():
    unmarked = [row._replace(mark=None) for row in rows(3)]
    assert first_wrong(STREAM, unmarked, key=KEY).what == "added"
    assert first_wrong(STREAM, unmarked, key=KEY, covered={3: unmarked[-1].seal}) is None


# cards ----------------------------------------------------------------------------------------------------------------

CARD = (Path(__file__).parents[1] / "vectors" / "proof" / "card.json").read_text(encoding="utf-8")


def places(value, path=()):
    """Every text and number in a document, by where it stands."""
    if isinstance(value, dict):
        for name, item in value.items():
            yield from places(item, (*path, name))
    elif isinstance(value, list):
        for number, item in enumerate(value):
            yield from places(item, (*path, number))
    elif isinstance(value, str | int | float) and value != "":
        yield path


PLACES = list(places(json.loads(CARD)))


def test_a_card_that_was_kept_holds():
    check = check_card(CARD)
    assert check.holds, check.lines
    assert check_card(CARD, read_public(json.loads(CARD)["proof"]["key"])).holds
    assert "not by the key that was given" in check_card(CARD, KEY.public).lines[-1]


@given(st.sampled_from(PLACES), st.integers(0, 10**6))
def test_a_card_with_anything_changed_does_not_hold(path, where):
    document = copy.deepcopy(json.loads(CARD))
    inner = document
    for step in path[:-1]:
        inner = inner[step]
    old = inner[path[-1]]
    if isinstance(old, str):
        place = where % len(old)
        inner[path[-1]] = old[:place] + ("x" if old[place] != "x" else "y") + old[place + 1 :]
    else:
        inner[path[-1]] = old + 1
    assert not check_card(json.dumps(document)).holds, path


def test_what_is_no_card_says_so():
    assert check_card("{").lines == ("This is no JSON file.",)
    assert check_card("[]").lines == ("This is no card's file.",)
    assert "knows version 2" in check_card(json.dumps({"format": "tight-ledger run", "version": 9})).lines[0]
    assert check_card(json.dumps({"format": "tight-ledger run", "version": 2})).lines[0].startswith("This is not a whole card")
