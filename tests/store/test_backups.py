"""A backup holds everything, or is refused; a restore changes nothing unless it is sound; nobody gets in through a backup."""

import gzip
import hashlib
import json
import stat
import threading
from pathlib import Path

import pytest
from alembic import command
from sqlalchemy import create_engine, text

from tests.shop import Shop
from tests.waiting import until
from tight_ledger.store import schema
from tight_ledger.store.server import OWNER, PrivateServer


@pytest.fixture(scope="module")
def kept(tmp_path_factory):
    """A shop with a finished run, and its backup, made while it was running."""
    folder = tmp_path_factory.mktemp("kept")
    shop = Shop(folder / "data").start()
    tam = shop.hand()
    run = tam.start()
    tam.go_on(run)
    tam.finish(run)
    made = shop.run("backup", str(folder / "one.backup"))
    assert made.returncode == 0, made.stderr
    assert "every seal holds" in made.stdout
    assert stat.S_IMODE((folder / "one.backup").stat().st_mode) == 0o600
    assert tam.get("/api/dashboard")["last_backup"] is not None
    shop.stop()
    return shop, run, folder / "one.backup"


def rows(shop, query):
    """What the owner of the database sees."""
    engine = create_engine(shop.database().url(OWNER))
    with engine.connect() as owner:
        found = [tuple(row) for row in owner.execute(text(query))]
    engine.dispose()
    return found


def test_into_an_empty_directory_and_the_restore_is_an_entry(kept, tmp_path):
    _, run, file = kept
    other = Shop(tmp_path / "data")
    assert "every seal holds" in other.run("restore", str(file)).stdout
    other.start()
    card = other.hand().get(f"/api/runs/{run}/card")
    assert (card["now"]["standing"], card["seals_hold"]) == ("good", True)
    [[body]] = rows(other, "SELECT body FROM ledger WHERE kind = 'restored'")
    assert "epoch 2: restored from one.backup" in json.loads(body)["text"]
    other.stop()


def test_one_that_is_taken_while_people_record_can_be_restored(tmp_path):
    shop = Shop(tmp_path / "data").start()
    tam, done = shop.hand(), threading.Event()
    run = tam.start()

    def go_on():
        while not done.is_set():
            tam.record(run, "noted", text="still here")

    busy = threading.Thread(target=go_on)
    busy.start()
    made = shop.run("backup", str(tmp_path / "busy.backup"))
    done.set()
    busy.join()
    shop.stop()
    assert made.returncode == 0, made.stderr
    other = Shop(tmp_path / "other")
    restored = other.run("restore", str(tmp_path / "busy.backup"))
    assert restored.returncode == 0, restored.stderr


def test_what_would_be_lost_is_asked_about_who_was_erased_since_is_erased_again_and_the_old_state_stays_until_the_new_is_served(
    kept, tmp_path
):
    _, run, file = kept
    shop = Shop(tmp_path / "data")
    assert shop.run("restore", str(file)).returncode == 0
    shop.start()
    later = shop.hand().start()
    shop.hand("Ines Okoro").command(f"/api/people/{shop.person('Wren Halloway')}/leave")
    assert "is on the list" in shop.run("person", "Tam Reddick", "--erase").stderr
    assert "Every seal holds" in shop.run("person", "Wren Halloway", "--erase").stdout
    shop.stop()
    # Two tablets, a machine, the start of a run; who left, was erased, is called otherwise.
    assert "7 entries that are here now are not in one.backup" in (refused := shop.run("restore", str(file))).stderr, refused.stderr
    done = shop.run("restore", str(file), "--discard", "7")
    assert "7 discarded" in done.stdout, done.stderr
    shop.start()
    assert rows(shop, "SELECT COUNT(*) FROM tight_before.ledger WHERE kind = 'restored'") == [(1,)]
    [[body]] = rows(shop, "SELECT body FROM ledger WHERE kind = 'restored'")  # the first restore is not in the backup
    assert json.loads(body)["figure"] == shop.hand().get(f"/api/runs/{run}/stream")["epoch"] + 1 == 3
    assert "Wren Halloway" not in {name for (name,) in rows(shop, "SELECT name FROM people")}
    assert shop.hand().get(f"/api/runs/{run}/card")["seals_hold"]
    assert shop.hand().http.get(f"/api/runs/{later}/now").status_code == 404
    shop.stop()
    shop.start()
    assert rows(shop, "SELECT COUNT(*) FROM information_schema.TABLES WHERE TABLE_SCHEMA = 'tight_before'") == [(0,)]
    shop.stop()


def test_with_a_passphrase_it_is_encrypted(kept, tmp_path):
    shop, _, _ = kept
    secret, file = {"TIGHT_BACKUP_PASSPHRASE": "gantry, rope & 3 pumps"}, tmp_path / "secret.backup"
    assert shop.run("backup", str(file), environment=secret).returncode == 0
    packed = file.read_bytes()
    assert gzip.compress(b"")[:3] not in packed[:400].split(b"\n", 2)[2][:20]
    other = Shop(tmp_path / "data")
    assert "is encrypted" in other.run("restore", str(file)).stderr
    assert "not its passphrase" in other.run("restore", str(file), environment={"TIGHT_BACKUP_PASSPHRASE": "no"}).stderr
    head = packed.index(b"\n", packed.index(b"\n") + 1) + 1
    for spoilt in (packed[:-1], packed[:head] + bytes([packed[head] ^ 1]) + packed[head + 1 :], packed[:-40] + b"x" + packed[-39:]):
        (tmp_path / "spoilt.backup").write_bytes(spoilt)
        assert "damaged" in other.run("restore", str(tmp_path / "spoilt.backup"), environment=secret).stderr
    assert other.run("restore", str(file), environment=secret).returncode == 0


def test_into_a_folder_the_oldest_are_removed_and_each_is_tried(kept, tmp_path):
    shop, _, _ = kept
    for day in range(1, 5):
        (tmp_path / f"tight-2026010{day}-000000.backup").write_bytes(b"old")
    (tmp_path / "mine.backup").write_bytes(b"not ours to remove")
    with shop.running("backup", "--every", "1d", "--keep", "2", str(tmp_path)):
        names = until(lambda: sorted(path.name for path in tmp_path.glob("*.backup")), lambda names: len(names) == 3)
    assert names[:2] == ["mine.backup", "tight-20260104-000000.backup"]
    assert "no length of time" in shop.run("backup", "--every", "soon", str(tmp_path)).stderr


def test_an_update_makes_a_backup_first(tmp_path):
    """The tables are as an older version left them."""
    server = PrivateServer(tmp_path / "data")
    server.start()
    engine = create_engine(server.url(OWNER), isolation_level="AUTOCOMMIT")
    with engine.connect() as owner:
        command.upgrade(schema._config(owner), "0005")
    engine.dispose()
    server.stop()
    shop = Shop(tmp_path / "data").start()
    assert shop.hand().get("/api/dashboard")["last_backup"] is not None
    shop.stop()
    shop.start()
    shop.stop()
    assert len(list((tmp_path / "data" / "backups").glob("tight-*.backup"))) == 1


def test_not_over_a_file_and_not_while_running(kept, tmp_path):
    shop, _, file = kept
    assert "not overwritten" in shop.run("backup", str(file)).stderr
    shop.start()
    assert "running on" in shop.run("restore", str(file)).stderr
    assert "running on" in shop.run("up", "--port", "1").stderr
    shop.stop()


def spoiled(file, target, change):
    with file.open("rb") as raw:
        magic, head = raw.readline(), json.loads(raw.readline())
        dump = gzip.decompress(raw.read())
    head, dump = change(head, dump)
    target.write_bytes(magic + json.dumps(head).encode() + b"\n" + gzip.compress(dump))
    return target


def cut(head, dump):
    return head, dump[: len(dump) // 2]


def forge(head, dump):
    """Somebody edits an entry and makes the file's own checksum fit again."""
    changed = dump.replace(b'\\"good\\"', b'\\"evil\\"')
    assert changed != dump
    return head | {"sha256": hashlib.sha256(changed).hexdigest()}, changed


def crafted(statement):
    def change(head, dump):
        changed = statement.encode() + b"\n" + dump.split(b"\n", 1)[1]
        return head | {"sha256": hashlib.sha256(changed).hexdigest()}, changed

    return change


def with_a_trigger(head, dump):
    changed = dump + b"\nCREATE TRIGGER sly BEFORE INSERT ON ledger FOR EACH ROW SET NEW.seq = NEW.seq + 1;\n"
    return head | {"sha256": hashlib.sha256(changed).hexdigest()}, changed


OUT = "/tmp/tight-crafted-backup"


BAD = [
    (cut, "damaged"),
    (forge, "somebody changed it"),
    (crafted(f"\\! touch {OUT}"), "failed"),
    (crafted(f"system touch {OUT}"), "failed"),
    (crafted(f"tee {OUT}"), "failed"),
    (crafted("DROP DATABASE tight;"), "failed"),
    (crafted("USE tight; DELETE FROM ledger;"), "failed"),
    (with_a_trigger, "holds a trigger"),
]


def test_a_bad_backup_changes_nothing_and_reaches_nothing(kept, tmp_path):
    shop, run, file = kept
    Path(OUT).unlink(missing_ok=True)
    for change, said in BAD:
        bad = spoiled(file, tmp_path / "bad.backup", change)
        assert said in shop.run("restore", str(bad)).stderr
        assert not Path(OUT).exists()
    shop.start()
    assert shop.hand().get(f"/api/runs/{run}/card")["seals_hold"]
    shop.stop()


def test_what_is_no_backup(kept, tmp_path):
    shop, _, file = kept
    (tmp_path / "x").write_text("hello\n")
    assert "not a backup" in shop.run("restore", str(tmp_path / "x")).stderr
    assert "There is no" in shop.run("restore", str(tmp_path / "y")).stderr
    (tmp_path / "z").write_bytes(file.read_bytes()[:2000])
    assert "damaged" in shop.run("restore", str(tmp_path / "z")).stderr


def test_a_changed_ledger_is_not_backed_up(kept, tmp_path):
    shop, run, _ = kept
    shop.start()
    engine = create_engine(shop.database().url(OWNER))
    with engine.begin() as owner:
        owner.execute(text("UPDATE ledger SET body = CONCAT(body, ' ') WHERE stream = :run AND seq = 3"), {"run": run.replace("-", "")})
    refused = shop.run("backup", str(tmp_path / "two"))
    assert "entry 3: The entry's text is not the one that was sealed" in refused.stderr
    assert not (tmp_path / "two").exists()
    assert shop.hand().get(f"/api/runs/{run}/card")["seals_hold"] is False
    with engine.begin() as owner:
        owner.execute(text("UPDATE ledger SET body = RTRIM(body) WHERE stream = :run AND seq = 3"), {"run": run.replace("-", "")})
    engine.dispose()
    shop.stop()
