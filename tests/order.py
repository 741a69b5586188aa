"""In which order files are taken: those that take longest first, so that all workers end at about the same time; or shuffled."""

from random import Random

SEED = "TIGHT_TEST_ORDER"
"""Names the seed of another order: `./tight test --shuffled 7`."""
SLOWEST = (
    "test_screens", "test_cluster", "test_jobs",
    "test_started_without_server", "test_every_way", "test_without_network", "test_backups", "test_adjusting",
    "test_a_shops_day", "test_a_wheel", "test_depots", "test_any_input", "test_server_lost", "test_races", "test_proxy", "test_crib", "test_library",
    "test_lab_and_practice", "test_what_happens_elsewhere", "test_existing_server", "test_people", "test_tablet_core", "test_network",
    "test_verification", "test_guide", "test_faults", "test_without_server", "test_week", "test_records",
)  # fmt: skip


def arrange(items: list, seed: str | None) -> None:
    """Sort the tests of a run in place; the tests of a file, and of a parameter of its shop, stay together."""
    if seed is None:
        places = {name: place for place, name in enumerate(SLOWEST)}
        items.sort(key=lambda item: places.get(item.path.stem, len(SLOWEST)))
        return
    files: dict[str, dict[str, list]] = {}
    for item in items:
        day = str(getattr(item, "callspec", None) and item.callspec.params.get("shop"))
        files.setdefault(str(item.path), {}).setdefault(day, []).append(item)
    items.clear()
    chance = Random(seed)
    for file in chance.sample(sorted(files), len(files)):
        for day in chance.sample(sorted(files[file]), len(files[file])):
            items += chance.sample(files[file][day], len(files[file][day]))
    print(f"shuffled by {seed}")
