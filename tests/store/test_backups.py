"""A backup holds everything, or is refused; a restore changes nothing unless it is sound."""

import gzip
import json

import pytest
from sqlalchemy import create_engine, text

from tests.shop import Shop


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
    assert tam.get("/api/dashboard")["last_backup"] is not None
    shop.stop()
    return shop, run, folder / "one.backup"


def test_into_an_empty_directory(kept, tmp_path):
    _, run, file = kept
    other = Shop(tmp_path / "data")
    assert "every seal holds" in other.run("restore", str(file)).stdout
    other.start()
    card = other.hand().get(f"/api/runs/{run}/card")
    assert (card["now"]["standing"], card["seals_hold"]) == ("good", True)
    other.stop()


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
    import hashlib

    changed = dump.replace(b'\\"good\\"', b'\\"evil\\"')
    assert changed != dump
    return head | {"sha256": hashlib.sha256(changed).hexdigest()}, changed


@pytest.mark.parametrize(("change", "said"), [(cut, "damaged"), (forge, "does not hold")])
def test_a_bad_backup_changes_nothing(kept, tmp_path, change, said):
    shop, run, file = kept
    bad = spoiled(file, tmp_path / "bad.backup", change)
    assert said in shop.run("restore", str(bad)).stderr
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
    engine = create_engine(shop.database().url("tight_owner"))
    with engine.begin() as owner:
        owner.execute(text("UPDATE ledger SET body = CONCAT(body, ' ') WHERE stream = :run AND seq = 3"), {"run": run.replace("-", "")})
    refused = shop.run("backup", str(tmp_path / "two"))
    assert "does not hold from entry 3 on" in refused.stderr
    assert not (tmp_path / "two").exists()
    assert shop.hand().get(f"/api/runs/{run}/card")["seals_hold"] is False
    with engine.begin() as owner:
        owner.execute(text("UPDATE ledger SET body = RTRIM(body) WHERE stream = :run AND seq = 3"), {"run": run.replace("-", "")})
    engine.dispose()
    shop.stop()
