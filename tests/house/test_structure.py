"""The plan of the house: no circles, one public name for one class, docstrings that fit their signatures."""

import ast
import inspect
import re
import tokenize
from collections import defaultdict
from graphlib import CycleError, TopologicalSorter
from pathlib import Path

import grimp
import pytest
from docstring_parser import parse

from tight_ledger.core.base.source import RUN_PATH

ROOT = Path(__file__).parents[2]
FILES = sorted((ROOT / "tight_ledger").rglob("*.py"))
GRAPH = grimp.build_graph("tight_ledger", exclude_type_checking_imports=False)


def require_no_circle(imports: dict[str, set[str]]) -> None:
    try:
        TopologicalSorter(imports).prepare()
    except CycleError as error:
        pytest.fail(f"a circle of imports: {' → '.join(error.args[1])}")


def test_no_module_imports_itself_in_a_circle_not_even_for_its_types() -> None:
    require_no_circle({module: GRAPH.find_modules_directly_imported_by(module) for module in GRAPH.modules})


@pytest.mark.parametrize("floor", ["services", "core"])
def test_no_package_imports_itself_in_a_circle(floor: str) -> None:
    def package(module: str) -> str:
        return ".".join(module.split(".")[:3])

    imports: dict[str, set[str]] = defaultdict(set)
    for module in GRAPH.modules:
        for imported in GRAPH.find_modules_directly_imported_by(module):
            if module.startswith(f"tight_ledger.{floor}.") and imported.startswith(f"tight_ledger.{floor}."):
                imports[package(module)] |= {package(imported)} - {package(module)}
    require_no_circle(imports)


def test_a_public_class_or_type_has_its_name_alone() -> None:
    found: dict[str, list[str]] = defaultdict(list)
    for file in FILES:
        for node in ast.parse(file.read_text()).body:
            if isinstance(node, ast.ClassDef):
                names = [node.name]
            else:
                names = [target.id for target in getattr(node, "targets", ()) if isinstance(target, ast.Name) and not target.id.isupper()]
            for name in names:
                if name[0].isupper():
                    found[name].append(str(file.relative_to(ROOT)))
    assert {name: files for name, files in found.items() if len(files) > 1} == {}


def functions() -> list[tuple[str, ast.FunctionDef | ast.AsyncFunctionDef]]:
    return [
        (f"{file.relative_to(ROOT)}:{node.lineno}", node)
        for file in FILES
        for node in ast.walk(ast.parse(file.read_text()))
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
    ]


def test_the_arguments_of_a_docstring_are_those_of_the_signature() -> None:
    for place, function in functions():
        said = inspect.cleandoc(ast.get_docstring(function) or "")
        given = {argument.arg for argument in (*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs)}
        named = {name for argument in parse(said).params for name in re.split(r",\s*", argument.arg_name)}
        assert named <= given, f"{place} {function.name} describes {', '.join(sorted(named - given))}"


VAGUE = {"one", "there", "some"}


def test_no_value_has_a_vague_name() -> None:
    for file in (*FILES, *sorted((ROOT / "tests").rglob("*.py"))):
        with file.open() as source:
            names = {token.string for token in tokenize.generate_tokens(source.readline) if token.type == tokenize.NAME}
        assert not names & VAGUE, f"{file.relative_to(ROOT)} names a value {', '.join(names & VAGUE)}"
    for file in (ROOT / "web" / "src").rglob("*.ts*"):
        found = re.findall(r"(?:const |let |[(\[{] ?|, )(one|there|some)\b(?=[,)\]}:]| =>| =)", file.read_text())
        assert not found or file.name in ("schema.d.ts", "values.ts"), f"{file.relative_to(ROOT)} names a value {', '.join(set(found))}"


def test_what_runs_on_a_tablet_is_packed_for_it() -> None:
    reached = GRAPH.find_upstream_modules("tight_ledger.core.runs.on_tablet")
    assert {module.split(".")[2] for module in reached if module.startswith("tight_ledger.core.")} <= set(RUN_PATH)


def test_a_tablet_gets_the_packages_of_the_server() -> None:
    server = (ROOT / "requirements/runtime.txt").read_text()
    locked = re.findall(r"\S+==\S+|sha256:\w+", (ROOT / "requirements/tablet.txt").read_text())
    assert len(locked) == 12
    assert [each for each in locked if each not in server] == []
