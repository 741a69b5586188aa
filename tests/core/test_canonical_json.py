"""Canonical bytes are those of RFC 8785: by its own example, and like the package's over any value."""

import pytest
import rfc8785
from hypothesis import example, given
from hypothesis import strategies as st

from tight_ledger.core.base.canonical_json import canonical_json

FIGURES = st.integers(-(2**53) + 1, 2**53 - 1) | st.floats(allow_nan=False, allow_infinity=False)
TEXTS = st.text(st.characters(exclude_categories=["Cs"]))
VALUES = st.recursive(
    st.none() | st.booleans() | FIGURES | TEXTS,
    lambda items: st.lists(items) | st.dictionaries(TEXTS, items) | st.dictionaries(st.text("abcxyz_\x7f", max_size=4), items),
)


@given(VALUES)
@example([1e15, -1e15, 1e-4, 9.999e-5, -0.0, 1e21, 333333333.33333329, 5e-324, 999999999999999.9])
@example({"\ue000": 1, "\U0001f600": 2, "ö": 3, "": 4})
def test_the_bytes_are_those_of_the_package(value):
    assert canonical_json(value) == rfc8785.dumps(value)


@pytest.mark.parametrize("value", [float("nan"), float("inf"), 2**53, {1: 2}, "\ud800", [object()]])
def test_what_has_no_canonical_form_is_refused_as_by_the_package(value):
    with pytest.raises((rfc8785.CanonicalizationError, UnicodeEncodeError)):
        rfc8785.dumps(value)
    with pytest.raises((rfc8785.CanonicalizationError, UnicodeEncodeError)):
        canonical_json(value)
