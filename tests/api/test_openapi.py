"""The types of the API in the repository are those of the application."""

import json
import shutil
import subprocess

from tests.shop import ROOT
from tight_ledger.api.app import create_app


def test_the_committed_types_are_made_from_the_application(tmp_path):
    description = tmp_path / "openapi.json"
    description.write_text(json.dumps(create_app().openapi(), sort_keys=True))
    path = f"{shutil.which('node').rpartition('/')[0]}:/usr/bin:/bin"
    subprocess.run(["node", "client.mjs", str(description), str(tmp_path)], cwd=ROOT / "web", check=True, env={"PATH": path})
    for name in ("schema.d.ts", "values.ts"):
        assert (tmp_path / name).read_text() == (ROOT / "web/src/api" / name).read_text(), "run ./tight client"


def test_every_operation_has_a_name_of_its_own():
    operations = [o["operationId"] for path in create_app().openapi()["paths"].values() for o in path.values()]
    assert len(set(operations)) == len(operations)
    assert not [name for name in operations if "api" in name]


def test_no_name_of_a_module_leaks_into_the_description():
    assert not [name for name in create_app().openapi()["components"]["schemas"] if "__" in name]
