"""The server dies under a tablet, is restored from an older backup, and comes back: the tablet knows what it did."""

from playwright.sync_api import expect

from tests.ui.tablet import Tablet


def pull(tablet, *labels):
    for label in labels:
        tablet.expect_nut(label)
        tablet.space()


def test_what_the_server_lost_comes_back_in_order_and_flagged(own, chromium, tmp_path):
    tam = own.hand()
    run = tam.begun()
    tablet = Tablet(chromium, own, known="hoist 1", local=True).sign_in("Tam Reddick").at_held_run(run)
    pull(tablet, "1", "6")
    tablet.expect_nut("3")
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    assert own.run("backup", str(tmp_path / "old.backup")).returncode == 0
    pull(tablet, "3", "8")
    tablet.expect_nut("5")
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    own.leave()
    own.kill_server()
    tablet.sees("The server is away.")
    pull(tablet, "5")
    tablet.expect_nut("10")
    own.kill_database()
    assert own.run("restore", str(tmp_path / "old.backup"), "--discard", "2").returncode == 0
    tablet.context.route("**/api/runs/safe", lambda route: route.abort(), times=2)  # two answers about what it still has are lost
    own.start()
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    tablet.expect_nut("10")
    pull(tablet, "10")
    tablet.expect_nut("7")
    expect(tablet.page.get_by_text("Not sent yet")).to_have_count(0)
    tam = own.hand(tablet="bench again")
    lines = [line for line in tam.get(f"/api/runs/{run}/entries") if line["kind"] == "pulled"]
    assert [line["words"].split(",")[0] for line in lines] == [f"nut {label}" for label in ("1", "6", "3", "8", "5", "10")]
    assert {line["code"]: line["keeps_from_good"] for line in tam.now(run)["verdicts"]} == {"brought_back": False}
    tablet.close()


def test_of_two_tabs_of_a_tablet_one_records(own, chromium):
    tam = own.hand()
    run = tam.begun()
    tablet = Tablet(chromium, own, known="hoist 1", local=True).sign_in("Tam Reddick").at_held_run(run)
    first, tablet.page = tablet.page, tablet.context.new_page()
    tablet.open(f"/runs/{run}").sees("This run is open in another tab of this tablet.")
    expect(tablet.page.get_by_text("tap, space bar or foot switch")).to_have_count(0)
    tablet.page.keyboard.press("Space")
    tablet.page, second = first, tablet.page
    pull(tablet, "1")
    tablet.expect_nut("6")
    tablet.page.close()
    tablet.page = second
    expect(tablet.page.get_by_text("tap, space bar or foot switch")).to_be_visible()
    tablet.expect_nut("6")
    assert [line["kind"] for line in tam.get(f"/api/runs/{run}/entries")].count("pulled") == 1
    tablet.close()
