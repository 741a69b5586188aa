"""Whoever owns the database changes it: each way is found and named; what is outside of it says so."""

import dataclasses
import hashlib
import json
import uuid
from contextlib import contextmanager

import pytest
from sqlalchemy import create_engine, text

from tests.shop import Shop
from tight_ledger.core.proof.checkpoints import read_checkpoint, read_checkpoints
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.records.seals import FIRST, seal
from tight_ledger.store.keeper import keeper
from tight_ledger.store.server import OWNER
from tight_ledger.store.verification import KnownOutside, verify

TABLES = ("ledger", "log_leaves", "log_nodes", "checkpoints", "spec_revisions", "attachments")
PIXEL = bytes.fromhex(
    "89504e470d0a1a0a0000000d49484452000000010000000108000000003a7e9b550000000a49444154789c6360000000020001e221bc330000000049454e44ae426082"
)


class Owned:
    """A shop with two runs that were signed off and one that is open, and its database in the hands of its owner."""

    def __init__(self, shop, runs, open_run):
        self.shop, self.first, self.second, self.open = shop, *runs, open_run
        self.url = shop.database().url(OWNER)
        self.engine = create_engine(self.url)
        kept = keeper(shop.data / "proof")
        self.known = KnownOutside(key=kept.key, public=kept.public, outside=tuple(kept.written()))

    def do(self, *statements, **named):
        with self.engine.begin() as owner:
            for statement in statements:
                owner.execute(text(statement), named)

    def rows(self, query, **named):
        with self.engine.begin() as owner:
            return owner.execute(text(query), named).all()

    def found(self, *, whole=True):
        done = verify(self.url, self.known, whole=whole)
        return [(each.what, str(each.stream) if each.stream else None, each.seq) for each in done.findings]

    @contextmanager
    def restored(self):
        """Whatever is done in the block is taken back."""
        for table in TABLES:
            self.do(f"CREATE TABLE tight_saved_{table} AS SELECT * FROM {table}")
        try:
            yield
        finally:
            for table in TABLES:
                self.do(f"DELETE FROM {table}", f"INSERT INTO {table} SELECT * FROM tight_saved_{table}", f"DROP TABLE tight_saved_{table}")

    def sealed_again(self, run, seq, old, new):
        """Change an entry and make every later seal fit."""
        before = FIRST if seq == 1 else self.rows("SELECT seal FROM ledger WHERE stream = :s AND seq = :n", s=run, n=seq - 1)[0].seal
        for row in self.rows("SELECT seq, body FROM ledger WHERE stream = :s AND seq >= :n ORDER BY seq", s=run, n=seq):
            body = row.body.replace(old, new) if row.seq == seq else row.body
            assert row.seq != seq or body != row.body
            before = seal(before, body.encode())
            self.do("UPDATE ledger SET body = :b, seal = :x WHERE stream = :s AND seq = :n", b=body, x=before, s=run, n=row.seq)

    def forged(self, run):
        """An entry behind the last, with a seal that fits."""
        last = self.rows("SELECT * FROM ledger WHERE stream = :s ORDER BY seq DESC LIMIT 1", s=run)[0]
        said = json.loads(last.body) | {"id": str(uuid.uuid4()), "seq": last.seq + 1, "text": "checked again, all good"}
        body = json.dumps(said)
        self.do(
            "INSERT INTO ledger (stream, seq, id, subject, kind, at_server, tool, body, seal, mark)"
            " VALUES (:s, :n, :i, 'run', :k, :a, NULL, :b, :x, :m)",
            s=run, n=said["seq"], i=said["id"], k=last.kind, a=last.at_server, b=body, x=seal(last.seal, body.encode()), m=bytes(32),
        )  # fmt: skip
        return said["seq"]

    def exchanged(self):
        """Each of two runs under the id of the other."""
        self.do(
            "UPDATE ledger SET seq = seq + 100000 WHERE stream = :s", "UPDATE ledger SET stream = :s WHERE stream = :t",
            "UPDATE ledger SET stream = :t, seq = seq - 100000 WHERE stream = :s AND seq > 100000", s=self.first, t=self.second,
        )  # fmt: skip

    def everything_made_to_fit(self):
        """A changed run, sealed again, and the log with it."""
        self.sealed_again(self.first, 2, "confirmed", "confirmeD")
        self.do("UPDATE log_leaves l JOIN ledger e ON e.stream = l.stream AND e.seq = l.seq SET l.seal = e.seal")

    def emptied(self):
        self.do("DELETE FROM ledger", "DELETE FROM log_leaves", "DELETE FROM log_nodes", "DELETE FROM checkpoints")


@pytest.fixture(scope="module")
def owned(tmp_path_factory):
    folder = tmp_path_factory.mktemp("owned")
    shop = Shop(folder / "data", environment={"TIGHT_CHECKPOINTS": str(folder / "second")}).start()
    tam = shop.hand()
    runs = []
    for _ in range(2):
        runs.append(run := tam.start())
        tam.go_on(run)
        tam.finish(run)
        signed = tam.command(f"/api/runs/{run}/sign", {"seq": tam.now(run)["seq"], "at_device": tam.clock.isoformat()})
        assert signed.status_code == 201, signed.text
    assert tam.http.put(f"/api/attachments/{uuid.uuid4()}", content=PIXEL).status_code == 204
    made = Owned(shop, runs, tam.begun())
    yield made
    made.engine.dispose()
    shop.stop()


def test_each_checkpoint_is_written_into_the_second_folder_too(owned):
    second = owned.shop.data.parent / "second" / "checkpoints.txt"
    assert read_checkpoints(second.read_text())[-1] == keeper(owned.shop.data / "proof").newest()


def test_nothing_is_found_where_nothing_was_changed(owned):
    assert owned.found() == owned.found(whole=False) == []
    assert owned.shop.run("verify", "--whole").stdout.endswith("Everything fits.\n")
    assert owned.shop.hand().get("/api/dashboard")["verified"]["finding"] is None


WAYS = [
    (
        "changed",
        "UPDATE ledger SET body = REPLACE(body, 'click', 'typed') WHERE stream = '{0.first}' AND kind = 'pulled'",
        "changed",
        "first",
    ),
    ("removed from the middle", "DELETE FROM ledger WHERE stream = '{0.first}' AND seq = 5", "missing", "first"),
    ("the end removed", "DELETE FROM ledger WHERE stream = '{0.first}' AND seq > 40", "removed at the end", "first"),
    ("the whole record removed", "DELETE FROM ledger WHERE stream = '{0.first}'", "record removed", "first"),
    ("forged behind the end", lambda o: o.forged(o.second), "added", "second"),
    ("forged in an open run", lambda o: o.forged(o.open), "added", "open"),
    ("sealed again", lambda o: o.sealed_again(o.first, 2, "confirmed", "confirmeD"), "sealed again", "first"),
    ("an open run sealed again", lambda o: o.sealed_again(o.open, 2, '"v":2', '"v":2 '), "added", "open"),
    ("two exchanged", Owned.exchanged, "sealed again", None),
    ("a column beside it", "UPDATE ledger SET kind = 'noted' WHERE stream = '{0.first}' AND kind = 'finished'", "columns", "first"),
    ("its moment", "UPDATE ledger SET at_server = at_server - INTERVAL 1 DAY WHERE stream = '{0.first}' AND seq = 3", "columns", "first"),
    ("the ledger emptied", "DELETE FROM ledger", "record removed", None),
    ("everything emptied", Owned.emptied, "log cut", None),
    ("the log made to fit", Owned.everything_made_to_fit, "log changed", None),
    ("a specification", "UPDATE spec_revisions SET content = REPLACE(content, '585', '485') WHERE content LIKE '%585%'", "spec", None),
    (
        "a photo",
        f"UPDATE attachments SET content = 'x', digest = '{hashlib.sha256(b'x').hexdigest()}' WHERE media_type = 'image/png'",
        "file",
        None,
    ),
]


@pytest.mark.parametrize(("way", "do", "what", "where"), WAYS)
def test_each_way_of_tampering_is_found_and_named(owned, way, do, what, where):
    with owned.restored():
        if isinstance(do, str):
            owned.do(do.format(owned))
        else:
            do(owned)
        found = owned.found()
    assert what in {each[0] for each in found}, found
    if where is not None:
        assert (what, getattr(owned, where)) in {each[:2] for each in found}
    assert owned.found(whole=False) == []


@pytest.mark.parametrize("whole", [True, False])
@pytest.mark.parametrize(
    "change", ["machine_id = (SELECT MAX(m.id) FROM machines AS m WHERE m.id <> runs.machine_id)", "spec_id = UUID()", "spec_revision = 2"]
)
def test_a_row_of_a_run_that_says_something_else_than_its_entry_is_found_by_either_look(owned, change, whole):
    [row] = owned.rows(f"SELECT machine_id AS m, spec_id AS s, spec_revision AS r FROM runs WHERE id = '{owned.first}'")
    owned.do(f"UPDATE runs SET {change} WHERE id = '{owned.first}'")
    found = owned.found(whole=whole)
    owned.do(f"UPDATE runs SET machine_id = :m, spec_id = :s, spec_revision = :r WHERE id = '{owned.first}'", m=row.m, s=row.s, r=row.r)
    assert "run" in {each[0] for each in found}
    assert owned.found(whole=whole) == []


def test_a_checkpoint_by_another_key_is_not_believed(owned):
    """Somebody without the key makes a history of their own, with a key of their own."""
    mine = SigningKey("tight-ledger/mine", bytes(32))
    with owned.restored():
        [newest] = owned.rows("SELECT number, note FROM checkpoints ORDER BY number DESC LIMIT 1")
        note = read_checkpoint(newest.note).checkpoint.signed_by(mine)
        owned.do("UPDATE checkpoints SET note = :n WHERE number = :x", n=note, x=newest.number)
        assert "not signed" in {each[0] for each in owned.found(whole=False)}


def test_a_foreign_checkpoint_in_the_database_lets_no_forged_entry_be_signed(owned):
    """With a checkpoint of a key of their own as the newest, marks would say nothing, if that were read off the database."""
    mine = SigningKey("tight-ledger/mine", bytes(32))
    with owned.restored():
        owned.forged(owned.open)
        [newest] = owned.rows("SELECT number, note FROM checkpoints ORDER BY number DESC LIMIT 1")
        note = read_checkpoint(newest.note).checkpoint.signed_by(mine)
        owned.do("UPDATE checkpoints SET note = :n WHERE number = :x", n=note, x=newest.number)
        assert "lacks the mark" in owned.shop.hand("Ines Okoro").command("/api/checkpoints").text
        assert "added" in {each[0] for each in owned.found()}


def test_nothing_that_does_not_hold_is_signed_and_home_says_that_it_was_found(owned):
    tam, ines = owned.shop.hand(), owned.shop.hand("Ines Okoro")
    with owned.restored():
        seq = owned.forged(owned.open)
        refused = ines.command("/api/checkpoints")
        assert (refused.status_code >= 400, f"entry {seq}" in refused.text) == (True, True), refused.text
        told = owned.shop.run("verify")
        assert (told.returncode, "lacks the mark of the installation" in told.stdout) == (1, True), told.stdout
        assert tam.get("/api/dashboard")["verified"]["finding"]["what"] == "added"
        assert owned.shop.run("checkpoint").returncode == 1
    assert owned.shop.run("verify").returncode == 0


def test_a_checkpoint_that_somebody_kept_fits_and_one_of_another_history_does_not(owned, tmp_path):
    kept = keeper(owned.shop.data / "proof")
    first = kept.written()[0]
    (tmp_path / "kept.txt").write_text(first.note)
    assert owned.shop.run("verify", "--against", str(tmp_path / "kept.txt")).returncode == 0
    (tmp_path / "other.txt").write_text(dataclasses.replace(first.checkpoint, root=bytes(32)).signed_by(kept.key))
    refused = owned.shop.run("verify", "--against", str(tmp_path / "other.txt"))
    assert (refused.returncode, "the checkpoint over" in refused.stdout) == (1, True)
