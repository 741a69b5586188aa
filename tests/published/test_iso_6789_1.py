"""ISO 6789-1, from memory. Compared: deviation, permissible deviation, points of a check, when a check is due."""

import pytest

from tight_ledger.core.base.policy import Policy
from tight_ledger.core.tools.calibrations import deviation_percent, points_of
from tight_ledger.core.tools.wrenches import ANY_WRENCH


def test_the_deviation_is_shown_less_true_over_true():
    assert deviation_percent(100, 96.15) == pytest.approx(4.0, abs=0.01)  # 96.15 is rounded: 100 / 1.04 = 96.1538


@pytest.mark.parametrize(("highest_nm", "percent"), [(110, 4), (10, 6), (11, 4)])
def test_four_percent_and_six_up_to_ten_newton_metres(highest_nm, percent):
    wrench = ANY_WRENCH.model_copy(update={"lowest": highest_nm / 10, "highest": highest_nm})
    assert wrench.permissible_percent == percent


def test_a_wrench_is_checked_at_a_fifth_three_fifths_and_its_end_and_due_after_a_year_or_5000_pulls():
    wrench = ANY_WRENCH.model_copy(update={"lowest": 22, "highest": 110})
    assert points_of(wrench) == (22, 66, 110)
    assert (Policy().due_months, Policy().due_pulls) == (12, 5_000)
