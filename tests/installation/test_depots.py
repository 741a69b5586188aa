"""Two depots and a centre: the line is cut, both work on, the line is back; the centre is complete, verified, and has nothing that must not leave."""

import shutil
from uuid import uuid4

import pytest

from tests.api.test_commands import MINIMAL
from tests.shop import Shop
from tests.waiting import until
from tight_ledger.store.depots import Depot, centre
from tight_ledger.store.server import OWNER, SERVING

PASSWORD = "between servers"
STAYS = {"pins", "pin_attempts", "sessions", "press_keys", "devices", "feeds", "pairings", "instruments", "practised", "attachments"}
pytestmark = pytest.mark.skipif(shutil.which("mariadbd", path="/usr/sbin:/usr/bin") is None, reason="MariaDB is not installed here.")


class Site:
    """A depot with its shop."""

    def __init__(self, folder, name, number):
        self.depot = Depot(folder / name, name, number)
        self.depot.start(PASSWORD)
        urls = {"TIGHT_DATABASE_URL": SERVING, "TIGHT_OWNER_DATABASE_URL": OWNER}
        given = {name: self.depot.works_on.url(account).render_as_string(hide_password=False) for name, account in urls.items()}
        self.shop = Shop(folder / f"{name}-data", environment=given).start()
        self.tam = self.shop.hand()

    @property
    def proof(self):
        return self.shop.data / "proof"

    @property
    def key(self):
        return (self.proof / "public-key.txt").read_text().splitlines()[-1]

    def works(self):
        """A wheel, signed: a checkpoint covers it."""
        run = self.tam.start()
        self.tam.go_on(run)
        assert self.tam.finish(run).status_code == 201
        seq = self.tam.now(run)["seq"]
        answer = self.tam.command(f"/api/runs/{run}/sign", {"seq": seq, "at_device": self.tam.clock.isoformat()})
        assert answer.status_code == 201, answer.text
        return run

    def stop(self):
        self.shop.stop()
        self.depot.stop()


@pytest.fixture(scope="module")
def sites(tmp_path_factory):
    folder = tmp_path_factory.mktemp("depots")
    made = [Site(folder, "north", 11), Site(folder, "south", 12)]
    yield made
    for site in made:
        site.stop()


@pytest.fixture(scope="module")
def middle(sites, tmp_path_factory):
    server = centre(tmp_path_factory.mktemp("centre"), [site.depot for site in sites])
    server.start(server.port)
    for site in sites:
        server.execute(f"CREATE DATABASE {site.depot.schema}")
        server.reads(site.depot.name, site.depot.outgoing, PASSWORD)
    yield server
    server.stop()


def caught_up(middle, site):
    """Wait until the centre has what a depot has."""

    def is_there():
        assert middle.stopped_reading() == ""
        assert site.depot.outgoing.stopped_reading() == ""
        number, works_on, outgoing = site.depot.number, site.depot.works_on, site.depot.outgoing
        return works_on.logged(number) == outgoing.applied(number) and outgoing.logged(number) == middle.applied(number)

    until(is_there)


def checked(site, middle):
    """The depot's copy, by `./tight verify --copy` on the centre's side."""
    server = site.depot.works_on.url(OWNER)  # the account comes over; its password is the depot's
    url = server.set(port=middle.port, database=site.depot.schema, username="root", password=None)
    url = url.update_query_dict({"unix_socket": str(middle.socket_path)})
    against = str(site.proof / "checkpoints.txt")
    return site.shop.run(
        "verify", "--copy", "--key", site.key, "--against", against, environment={"TIGHT_DATABASE_URL": url.render_as_string(False)}
    )


def test_the_line_is_cut_both_work_on_and_the_centre_is_complete_again_and_verified(sites, middle):
    runs = [site.works() for site in sites]
    for site in sites:
        caught_up(middle, site)
    middle.execute("STOP ALL SLAVES")
    runs += [site.works() for site in sites]
    behind = checked(sites[0], middle)
    assert (behind.returncode, "Everything that is here fits." in behind.stdout) == (0, True), behind.stdout + behind.stderr
    middle.stop()
    for site in sites:
        site.depot.outgoing.kill()
    runs += [site.works() for site in sites]
    for site in sites:
        site.depot.outgoing.start(site.depot.outgoing.port)
    middle.start(middle.port)
    for place, site in enumerate(sites):
        caught_up(middle, site)
        rows = middle.execute(f"SELECT HEX(id) AS id FROM {site.depot.schema}.runs")
        known = {str(row["id"]).lower() for row in rows}
        assert {run.replace("-", "") for run in runs[place :: len(sites)]} <= known
        whole = checked(site, middle)
        assert whole.returncode == 0, whole.stdout + whole.stderr
        entries = site.depot.works_on.execute("SELECT COUNT(*) AS many FROM tight.ledger")[0]["many"]
        assert whole.stdout.startswith(f"{entries} entries")


def test_what_must_not_leave_is_not_at_the_centre_nor_in_the_log_that_goes_there(sites, middle):
    for site in sites:
        caught_up(middle, site)
        for server, schema in ((middle, site.depot.schema), (site.depot.outgoing, "tight")):
            tables = {
                row["t"] for row in server.execute(f"SELECT table_name AS t FROM information_schema.tables WHERE table_schema = '{schema}'")
            }
            assert "ledger" in tables
            assert tables & STAYS == set()
        secret = site.depot.works_on.execute("SELECT pin_hash FROM tight.pins LIMIT 1")[0]["pin_hash"].encode()
        logged = b"".join(log.read_bytes() for log in sorted((site.depot.outgoing.data).glob("outgoing-bin.0*")))
        assert secret in b"".join(log.read_bytes() for log in sorted((site.depot.works_on.data).glob("depot-bin.0*")))
        assert secret not in logged


def test_a_copy_that_somebody_changed_at_the_centre_is_named(sites, middle):
    site = sites[0]
    caught_up(middle, site)
    change = "UPDATE {}.ledger SET body = {} WHERE kind = 'pulled' ORDER BY id LIMIT 1"
    middle.execute(change.format(site.depot.schema, "CONCAT(body, ' ')"))
    told = checked(site, middle)
    middle.execute(change.format(site.depot.schema, "TRIM(body)"))
    assert told.returncode == 1
    assert "Everything that is here fits." not in told.stdout
    assert checked(site, middle).returncode == 0


def brought(site, file, key, by="Ines Okoro"):
    return site.shop.run("library", "bring", str(file), "--by", by, "--key", key, environment=site.shop.environment)


def test_specs_come_down_as_a_signed_library_and_go_when_the_centre_has_them_no_more(sites, tmp_path):
    head, branch = sites
    lead = head.shop.hand("Ines Okoro")
    spec = head.tam.command("/api/specs/minimal", MINIMAL | {"model": uuid4().hex[:6]}).json()["id"]

    def written(name):
        told = head.shop.run("library", "write", str(tmp_path / name), environment=head.shop.environment)
        assert told.returncode == 0, told.stderr
        return tmp_path / name

    assert brought(branch, written("draft.json"), head.key).stdout.startswith("0 new")  # the spec is a draft
    assert lead.command(f"/api/specs/{spec}/revisions/1/check").status_code == 204
    file = written("library.json")
    assert "not signed by this key" in brought(branch, file, branch.key).stderr
    assert brought(branch, file, head.key, by="Tam Reddick").returncode == 1  # no lead
    assert brought(branch, file, head.key).stdout.startswith("1 new")
    assert brought(branch, file, head.key).stdout.startswith("0 new")
    line = branch.tam.get(f"/api/specs/{spec}/history")["revisions"][0]
    assert (line["status"], line["checked_by"]) == ("current", "Ines Okoro")
    assert lead.command(f"/api/specs/{spec}/revisions/1/withdraw", {"reason": "wrong page"}).status_code == 204
    assert "1 withdrawn" in brought(branch, written("without.json"), head.key).stdout
    assert branch.tam.get(f"/api/specs/{spec}/history")["revisions"][0]["status"] == "withdrawn"
    file.write_bytes(file.read_bytes() + b" ")
    assert "not the one that was signed" in brought(branch, file, head.key).stderr
