"""Canonical bytes are those of RFC 8785: by its own example, and like the package's over any value."""

from typing import get_args

import pytest
import rfc8785
from hypothesis import example, given
from hypothesis import strategies as st
from pydantic import BaseModel

from tight_ledger.core.base.canonical_json import canonical_json
from tight_ledger.core.base.models import canonical
from tight_ledger.core.records.entries import Entry
from tight_ledger.core.records.notes import Note
from tight_ledger.core.specs.spec import Spec
from tight_ledger.demo.load import specs

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


def models_of(annotation) -> set:
    """The models that an annotation names, at any depth."""
    if isinstance(annotation, type) and issubclass(annotation, BaseModel):
        return {annotation}
    return {model for argument in get_args(annotation) for model in models_of(argument)}


def test_what_may_be_nothing_has_a_default_because_nothing_is_not_written():
    """Canonical JSON leaves null fields out: a record with one is read again only if the field has a default."""
    waiting, seen, required = [Entry, Spec, Note], set(), []
    while waiting:
        model = waiting.pop()
        if model in seen:
            continue
        seen.add(model)
        for name, field in model.model_fields.items():
            waiting += models_of(field.annotation)
            if type(None) in get_args(field.annotation) and field.is_required():
                required.append(f"{model.__name__}.{name}")
    assert len(seen) > 40
    assert required == []


def test_the_digest_of_every_spec_of_the_demo_is_the_same_after_it_was_kept():
    for spec in specs():
        assert Spec.model_validate_json(canonical(spec)).digest == spec.digest, spec.title
