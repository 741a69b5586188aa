"""A short, seeded part of `./tight bench faults`."""

from tight_ledger.bench import faults


def test_nothing_acknowledged_is_lost_doubled_or_misplaced(tmp_path):
    found = faults.run(tmp_path, kills=6, clients=4, seed=5)
    assert sum(found["kills"].values()) == 6
    assert all(found["kills"].values())
    assert found["acknowledged"] > 6
    assert (found["lost"], found["doubled"], found["at_another_place"]) == (0, 0, 0)
