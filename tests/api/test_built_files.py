"""Built files are sent as they were compressed at build time, to a browser that accepts that."""

import json

import httpx
import pytest

from tests.shop import ROOT
from tight_ledger.store.pages import COMPRESSED

DIST = ROOT / "web" / "dist"
KINDS = {".js": "text/javascript", ".mjs": "text/javascript", ".wasm": "application/wasm", ".zip": "application/zip"}


@pytest.mark.parametrize("ending", KINDS)
def test_a_built_file_is_the_same_with_and_without_compression(shop, ending):
    """The zip archives are compressed in themselves; no copy is made of them."""
    core = [f"core/{name}" for name in json.loads((DIST / "core" / "core.json").read_text())["files"]]
    path = next(each for each in (*core, *(f"assets/{each.name}" for each in (DIST / "assets").iterdir())) if each.endswith(ending))
    file = DIST / path
    for accepted, packed in (("gzip, br", ending != ".zip"), ("identity", False)):
        answer = httpx.get(f"{shop.url}/{path}", headers={"accept-encoding": accepted})
        assert answer.headers.get("content-encoding") == ("gzip" if packed else None)
        assert int(answer.headers["content-length"]) == (file.with_name(file.name + COMPRESSED) if packed else file).stat().st_size
        assert answer.content == file.read_bytes()
        assert answer.headers["content-type"].split(";")[0] == KINDS[ending]
        assert (answer.headers["vary"], "immutable" in answer.headers["cache-control"]) == ("Accept-Encoding", True)
