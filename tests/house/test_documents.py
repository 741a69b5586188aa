"""The documents say what the code says."""

import ast
import re
import tomllib
from pathlib import Path

from tight_ledger.core.records.verdicts import TEXTS

ROOT = Path(__file__).parents[2]


def test_the_table_of_rules_is_the_verdicts_of_the_code() -> None:
    rows = re.findall(r"^\| ([a-z ]+) \| (.*?) \| (.*?) \| (.*?) \|$", (ROOT / "docs/rules.md").read_text(), re.MULTILINE)
    told = {name.replace(" ", "_"): tuple(texts) for name, *texts in rows if name not in ("verdict", "fasteners")}
    assert told == {code: tuple(text) for code, text in TEXTS.items()}


def test_every_published_test_has_its_source_and_every_source_its_test() -> None:
    rows = re.findall(r"^\| ([^|]+) \| [^|]+ \| `(test_\w+\.py)` \|$", (ROOT / "docs/sources.md").read_text(), re.MULTILINE)
    compared = {file: work for work, file in rows}
    files = {file.name: file for file in (ROOT / "tests/published").glob("test_*.py")}
    assert compared.keys() == files.keys()
    for name, file in files.items():
        assert (ast.get_docstring(ast.parse(file.read_text())) or "").startswith(compared[name]), name


def contract(name: str) -> list[str]:
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    return next(each["layers"] for each in contracts if each["name"] == name)


def says(package: Path) -> str:
    """The first line of what a package, or a module, says of itself."""
    file = package / "__init__.py" if package.is_dir() else package.with_suffix(".py")
    return (ast.get_docstring(ast.parse(file.read_text())) or "").partition("\n")[0]


def test_the_drawing_of_the_house_is_the_contract() -> None:
    home, floors, rooms = ROOT / "tight_ledger", contract("The floors of the house"), contract("The rooms of the core")
    drawing = [f"{floor:<9} {says(home / floor)}" for floor in floors]
    drawing += [f"  {room:<11} {says(home / 'core' / room)}" for room in rooms]
    assert "\n".join(drawing) in (ROOT / "docs/architecture.md").read_text()


def test_every_file_that_the_documents_name_is_in_its_place() -> None:
    for document in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
        for name in re.findall(r"`([\w.][\w./-]*\.(?:py|tsx?|toml|json|md|csv))`", document.read_text()):
            places = [ROOT / name, ROOT / "tight_ledger" / name, *(ROOT / "tight_ledger").rglob(name), *(ROOT / "tests").rglob(name)]
            assert any(place.exists() for place in places), f"{document.name} names {name}"


def test_what_is_looked_for_is_found_by_name() -> None:
    text = (ROOT / "docs/changing.md").read_text()
    asked = re.findall(r"^\| ([^|]+) \| ([^|]+) \| ([^|]+) \|$", text.partition("## Where is")[2].partition("\n## ")[0], re.MULTILINE)[2:]
    assert len(asked) >= 20
    for what, files, names in asked:
        sources = [file for name in re.findall(r"`([^`]+)`", files) if (file := ROOT / name).exists()]
        assert len(sources) == len(re.findall(r"`([^`]+)`", files)), f"{what}: {files}"
        told = "".join(file.read_text() for file in sources if file.is_file())
        assert all(name in told for name in re.findall(r"`([^`]+)`", names)), f"{what}: {names}"
