"""Under which name an answer is saved, whatever a machine is called; and names that cannot be read."""

import re
from urllib.parse import unquote
from uuid import uuid4

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tight_ledger.api.downloads import saved_as
from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.given_names import require_name

NAMES = ("Ж-1", "日本1", "🚌 4", 'X"; filename="evil.html', "a/../../b", "Ünsal 7")


def name_in(header: str) -> str:
    """The name that a browser saves it under: `filename*` where there is one."""
    wide = re.search(r"filename\*=UTF-8''([^;]+)", header)
    return unquote(wide[1]) if wide else re.search(r'filename="([^"]*)"', header)[1]


@given(st.text(max_size=200))
def test_no_name_ends_its_header_or_names_a_folder(name):
    header = saved_as(f"{name}.pdf")["Content-Disposition"]
    assert header.isascii()
    assert header.isprintable()
    assert header.count("filename=") == 1
    kept = name_in(header)
    assert kept
    assert not set(kept) & set('/\\"')


@pytest.mark.parametrize("name", ["Ж-1.pdf", "日本1.pdf", "Ünsal 7.pdf", "plain.pdf"])
def test_a_name_in_any_script_arrives(name):
    assert name_in(saved_as(name)["Content-Disposition"]) == name


def test_every_file_of_a_machine_is_given_whatever_it_is_called(tam, ines):
    for name in NAMES:
        body = {"id": str(uuid4()), "fleet_number": name, "maker_model": "Fennick Causeway 12", "meters": ["km"]}
        machine = tam.http.post("/api/machines", json=body).json()["id"]
        run = tam.start(machine)
        tam.finish(run, "do not move", "a stud is cracked")
        for file in (f"runs/{run}/card.pdf", f"runs/{run}/card.json", f"runs/{run}/tag.pdf", f"labels.pdf?of=positions&machine={machine}"):
            answer = tam.http.get(f"/api/{file}")
            assert answer.status_code == 200, (name, file)
            assert name_in(answer.headers["content-disposition"])


@pytest.mark.parametrize("name", ["   ", "\u200b", "SB\n04", "tab\tbed", "\u202etoob", "a\x00b"])
def test_a_name_that_cannot_be_read_is_refused_where_it_is_typed(name, tam, ines):
    with pytest.raises(Invalid):
        require_name("name", name)
    if name.isascii() and "\x00" not in name:
        body = {"fleet_number": name, "maker_model": "Fennick Causeway 12"}
        assert tam.command("/api/machines", body).status_code == 422
        assert ines.command("/api/people", {"name": name, "roles": ["mechanic"], "pin": "4711"}).status_code == 422


def test_a_week_in_which_nobody_can_have_worked(tam):
    for day in ("9999-12-31", "0001-01-01"):
        assert tam.http.get("/api/week", params={"day": day}).status_code == 422
