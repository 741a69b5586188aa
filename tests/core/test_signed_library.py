"""The note of a library: nothing of file or note can be changed."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.core.proof.library import library_note, require_signed

KEY, OTHER = SigningKey("tight-ledger/a", bytes(range(32))), SigningKey("tight-ledger/a", bytes(range(1, 33)))
CONTENT = b'{"format":"tight-ledger specs","specs":[],"version":1}'
NOTE = library_note(CONTENT, 0, KEY)
WHOLE, CUT = NOTE.encode() + CONTENT, len(NOTE.encode())


def test_it_holds_and_only_by_its_key():
    require_signed(CONTENT, NOTE, KEY.public)
    with pytest.raises(Invalid, match="not signed by this key"):
        require_signed(CONTENT, NOTE, OTHER.public)


@given(place=st.integers(0, len(WHOLE) - 1), flipped=st.integers(1, 127))
def test_any_letter_that_is_another_is_found(place, flipped):
    changed = bytearray(WHOLE)
    changed[place] ^= flipped
    with pytest.raises(Invalid):
        require_signed(bytes(changed[CUT:]), changed[:CUT].decode(errors="replace"), KEY.public)
