"""The description of the API, and the client made from it, are those in the repository."""

import json
import shutil
import subprocess

from tests.shop import ROOT
from tight_ledger.api.app import create_app

API = ROOT / "web" / "src" / "api"


def test_the_committed_description_is_current():
    assert json.loads((API / "openapi.json").read_text()) == create_app().openapi()


def test_the_committed_client_is_made_from_it(tmp_path):
    made = tmp_path / "schema.d.ts"
    command = ["node_modules/.bin/openapi-typescript", str(API / "openapi.json"), "-o", str(made)]
    subprocess.run(
        command, cwd=ROOT / "web", check=True, capture_output=True, env={"PATH": f"{shutil.which('node').rpartition('/')[0]}:/usr/bin:/bin"}
    )
    assert made.read_text() == (API / "schema.d.ts").read_text()


def test_every_operation_has_a_name_of_its_own():
    operations = [o["operationId"] for path in create_app().openapi()["paths"].values() for o in path.values()]
    assert len(set(operations)) == len(operations)
    assert not [name for name in operations if "api" in name]
