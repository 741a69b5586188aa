"""Matching words against entries: what a search without dimensions would find, the levels find too."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.play import wheel_spec
from tests.examples import examples
from tight_ledger.core.machines.machine import Machine
from tight_ledger.core.machines.vin import read_vin
from tight_ledger.core.search.index import (
    CURRENT,
    DRAFT,
    SUPERSEDED,
    WAITING,
    WITHDRAWN,
    Who,
    entries,
    key,
    machine_names,
    standing,
    text_words,
)
from tight_ledger.core.search.matching import (
    BEGINNING,
    DIMENSIONS,
    SLIP,
    STRONG,
    WHOLE,
    TokenReading,
    Vocabulary,
    levels,
    match_word,
    options,
    tokens,
    with_synonyms,
)

WORDS = ("wheel", "wheels", "head", "heron", "hub", "rear", "reel", "10", "45", "m12x1.5", "bearing", "cap", "capstan")
ENTRY = st.frozensets(st.sampled_from(WORDS), min_size=1, max_size=4)


def vocabulary(*said):
    found = Vocabulary()
    for number, words in enumerate(said):
        found.add(number, (), words)
    return found


@pytest.mark.parametrize(
    ("token", "expected"),
    [
        ("wheel", {0: WHOLE, 1: BEGINNING}),
        ("whe", {0: BEGINNING, 1: BEGINNING}),
        ("10", {2: WHOLE}),
        ("1", {}),  # a number matches whole
        ("m12x1", {3: BEGINNING}),
        ("rear", {}),
    ],
)
def test_whole_words_count_more_than_beginnings(token, expected):
    assert vocabulary(["wheel"], ["wheels"], ["10"], ["m12x1.5"]).match(token) == expected


@pytest.mark.parametrize("typed", ["bearign", "beering", "bearin", "bbearing", "bering"])
def test_one_slip_a_word(typed):
    found = vocabulary(["bearing"], ["carrier"])
    assert (found.match(typed) or found.slips(typed)).keys() == {0}


@pytest.mark.parametrize("typed", ["hea", "m13x1.5", "46", "beraign"])
def test_no_slip_in_short_words_numbers_or_twice(typed):
    assert vocabulary(["head"], ["m12x1.5"], ["45"], ["bearing"]).slips(typed) == {}


def test_a_title_counts_more_than_the_rest():
    found = Vocabulary()
    found.add(1, ["rear"], ["wheel"])
    found.add(2, ["wheel"], ["rear"])
    assert found.match("rear") == {1: WHOLE + STRONG, 2: WHOLE}
    assert found.match("whee") == {1: BEGINNING, 2: BEGINNING + STRONG}


ROW = st.tuples(*(st.integers(0, 3) for _ in DIMENSIONS))


@examples(200)
@example(
    said=tuple([frozenset({"wheel", "bearing", "cap"})] * 4 for _ in DIMENSIONS), rows=[(0, 0, 3)], asked=["rear", "ca", "wheel", "wheels"]
)
@given(
    st.tuples(*(st.lists(ENTRY, min_size=4, max_size=4) for _ in DIMENSIONS)),
    st.lists(ROW, max_size=12),
    st.lists(st.sampled_from([*WORDS, "whee", "hed", "ca", "nut"]), min_size=1, max_size=4, unique=True),
)
def test_levels_find_what_an_exhaustive_search_finds_best_first(said, rows, asked):
    """Held against every row's own words, each word at its best."""
    known = {name: vocabulary(*said[place]) for place, name in enumerate(DIMENSIONS)}
    read = [options(word, known) for word in asked]

    def best(row, ways):
        found = [
            0 if way.dimension is None else way.scores.get(row[DIMENSIONS.index(way.dimension)], -1) for way in ways if way.year is None
        ]
        return max(found, default=-1)

    exhaustive = {}
    for row in set(rows):
        scores = [best(row, ways) for ways in read]
        if all(score >= 0 for score in scores):
            exhaustive[row] = sum(scores)
    found = {}
    for level in levels(read):
        for row in set(rows):
            held = zip(row, (level.who, level.what, level.fasteners), strict=True)
            if all(ids is None or entry in ids for entry, ids in held):
                found.setdefault(row, level.score)
    assert found == exhaustive


def test_a_year_and_words_that_may_be_passed_over():
    known = dict.fromkeys(DIMENSIONS, vocabulary(["wheel"]))
    read = [options(word, known) for word in ("2019", "nut")]
    assert [(level.score, level.year, level.year_stated) for level in levels(read)] == [(WHOLE, 2019, True), (SLIP, 2019, False)]
    assert levels([options("2019", known), options("2020", known)]) == []
    assert levels([options("drum", known)]) == []


def test_levels_are_held_to_what_was_tapped():
    read = [[TokenReading("what", {1: 3, 2: 2})]]
    assert [(level.what, level.who) for level in levels(read, {"who": [7], "what": [2]})] == [((2,), (7,))]


@pytest.mark.parametrize(
    ("words", "also"),
    [
        ("sump", {"oil", "pan"}),
        ("oil pan", {"sump"}),
        ("main caps main cap", {"bearing"}),
        ("wheel bearing", {"lug"}),
        ("brake carrier", {"calliper", "caliper"}),
        ("tire", {"tyre"}),
    ],
)
def test_trade_words_for_the_same_thing(words, also):
    assert also <= set(with_synonyms(tokens(words)))


def test_a_cap_of_an_oil_filter_is_no_bearing():
    assert "bearing" not in with_synonyms(tokens("oil filter cap"))


@pytest.mark.parametrize(
    ("word", "expected"),
    [("wheel", (WHOLE, "wheel")), ("whe", (BEGINNING, "wheel")), ("wheal", (SLIP, "wheel")), ("wheaal", None), ("10", None)],
)
def test_why_a_word_matched(word, expected):
    assert match_word(word, ["rear", "wheel"]) == expected


def test_a_whole_word_goes_before_the_beginning_of_an_earlier_one_and_a_number_has_none():
    assert match_word("wheel", ["wheels", "wheel"]) == (WHOLE, "wheel")
    assert match_word("wheel", ["wheels", "wheelbase"]) == (BEGINNING, "wheels")
    assert match_word("12", ["120", "m12"]) is None


def test_what_a_spec_is_found_by():
    spec = wheel_spec(
        seat="flat", cautions=["No oil here."],
        applies_to=[{"maker": "Fennick", "model": "Causeway 12", "variant": {"driven": "no"}, "year_from": 2016}, {"maker": "A", "model": "B"}],
    )  # fmt: skip
    first, second = entries(spec)
    assert (first.who.shown, second.who.shown) == ("Fennick Causeway 12, driven: no", "A B")
    assert {"causeway12", "fennick", "12"} <= set(first.who.strong())
    assert (first.trust, first.low_nm) == ("maker's manual", 565)
    assert first.fasteners.threads == "10 × M22×1.5"
    assert [stage.words for stage in first.figures[0].stages if stage.main] == ["565–605 N·m"]
    assert (first.year_from, first.year_to, second.year_from, second.year_to) == (2016, 9999, 0, 9999)
    assert "oil" in text_words(first.notes)
    assert key(first.what) == key(second.what) != key(Who(maker="A", model="B"))
    assert 0 <= key(first.what) < 2**63


def test_how_a_revision_stands_in_a_search():
    found = {1: "superseded", 2: "current", 3: "draft"}
    assert [standing(found, revision) for revision in found] == [SUPERSEDED, CURRENT, WAITING]
    assert [standing({1: "withdrawn", 2: "draft"}, revision) for revision in (1, 2)] == [WITHDRAWN, DRAFT]


def test_what_a_machine_is_called_by():
    machine = Machine(id="00000000-0000-0000-0000-000000000001", fleet_number="SB-04", maker="F", model="C", registration="SQ18 BUS")
    assert {"sb", "04", "sb04", "sq18", "bus", "sq18bus"} <= set(machine_names(machine))


@pytest.mark.parametrize("text", ["", "SB-04", "1M8GDM9AXKP04278", "IM8GDM9AXKP042788", "OOOOOOOOOOOOOOOOO"])
def test_what_is_no_vin(text):
    assert read_vin(text) is None
