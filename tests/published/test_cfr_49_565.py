"""49 CFR 565; ISO 3779, from memory. Compared: check digits, characters of a model year."""

import pytest

from tight_ledger.core.machines.vin import read_vin


@pytest.mark.parametrize(
    ("text", "holds"),
    [("1M8GDM9AXKP042788", True), ("1m8gdm9axkp042788", True), ("11111111111111111", True), ("1M8GDM9A1KP042788", False)],
)
def test_the_check_digit_of_a_vin(text, holds):
    """49 CFR 565; both valid ones are the textbook's (quoted from memory)."""
    reading = read_vin(text)
    assert (reading.vin, reading.check_digit_holds, bool(reading.warning)) == (text.upper(), holds, not holds)


@pytest.mark.parametrize("year", "0UZ")
def test_a_year_character_that_is_never_used_is_no_failed_check_digit(year):
    """49 CFR 565.15: I, O, Q, U, Z and 0 stand for no model year (from memory)."""
    reading = read_vin(f"1M8GDM9AX{year}P042788")
    assert (reading.check_digit_holds, reading.years) == (None, ())
    assert "year" in reading.warning
