"""Canonical JSON (RFC 8785): the bytes that are sealed. The common case by the standard library's encoder, the rest by the package."""

import json
from typing import Any

import rfc8785

_ENCODER = json.JSONEncoder(ensure_ascii=False, check_circular=False, allow_nan=False, sort_keys=True, separators=(",", ":"))
_SMALLEST, _LARGEST = 1e-4, 1e15
"""Between these, Python and RFC 8785 write a float that is no whole number alike."""
_LARGEST_INTEGER = 2**53 - 1


class _Unusual(Exception):
    """A value that the standard encoder would write otherwise."""


def canonical_json(value: Any) -> bytes:
    """The canonical bytes of a JSON value; the same as those of the package `rfc8785`, in less than a third of the time.

    Raises:
        rfc8785.CanonicalizationError: NaN, infinity, an integer beyond 2**53 - 1, or no JSON value.
    """
    try:
        return _ENCODER.encode(_as_written(value)).encode()
    except (_Unusual, UnicodeEncodeError):
        return rfc8785.dumps(value)


def _as_written(value: Any) -> Any:
    """The value with whole floats as integers.

    Raises:
        _Unusual: a float that is written with an exponent, a large integer, a name beyond ASCII (they are sorted by UTF-16), no JSON value.
    """
    kind = type(value)
    if kind is str or value is None or kind is bool:
        return value
    if kind is dict:
        written = {}
        for name, item in value.items():
            if type(name) is not str or not name.isascii():
                raise _Unusual
            written[name] = _as_written(item)
        return written
    if kind is float:
        if value.is_integer() and -_LARGEST < value < _LARGEST:
            return int(value)
        if _SMALLEST <= abs(value) < _LARGEST:
            return value
        raise _Unusual
    if kind is int and -_LARGEST_INTEGER <= value <= _LARGEST_INTEGER:
        return value
    if kind is list or kind is tuple:
        return [_as_written(item) for item in value]
    raise _Unusual
