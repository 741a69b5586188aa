"""What all models of the core share, and their canonical bytes and digests."""

import hashlib
import json
from typing import Annotated

from pydantic import BaseModel, ConfigDict, PlainSerializer

from tight_ledger.core.base.canonical_json import canonical_json

Names = Annotated[frozenset[str], PlainSerializer(sorted, return_type=list[str])]
"""A set of names that is always written in the same order."""


class Model(BaseModel):
    """A frozen value. Unknown fields, NaN and infinity are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


def canonical(model: BaseModel) -> bytes:
    """The canonical bytes of a model: RFC 8785 JSON without null fields."""
    return canonical_json(model.model_dump(mode="json", exclude_none=True))


def digest(model: BaseModel) -> str:
    """SHA-256 over the canonical bytes, in hex."""
    return hashlib.sha256(canonical(model)).hexdigest()


def content_digest(model: BaseModel) -> str:
    """SHA-256 over what a model says beyond its defaults, as JSON with sorted names.

    A field that is added later, with a default, does not change it.
    """
    said = model.model_dump(mode="json", exclude_defaults=True)
    return hashlib.sha256(json.dumps(said, sort_keys=True, separators=(",", ":")).encode()).hexdigest()
