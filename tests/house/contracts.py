"""A contract for import-linter: some packages, and all that they import of ours, use only the packages named here."""

import sys

from grimp import ImportGraph
from importlinter import Contract, ContractCheck, fields, output


class OnlyContract(Contract):
    """`rooms` and what they import may import the standard library and `packages`, nothing else from outside."""

    rooms = fields.ListField(subfield=fields.StringField())
    packages = fields.ListField(subfield=fields.StringField())

    def check(self, graph: ImportGraph, verbose: bool) -> ContractCheck:
        rooms, allowed = list(self.rooms), {*self.packages, *sys.stdlib_module_names}  # type: ignore[call-overload]
        ours = rooms[0].partition(".")[0]
        reached = {module for room in rooms for module in (room, *graph.find_descendants(room))}
        waiting, foreign = list(reached), set()
        while waiting:
            module = waiting.pop()
            for imported in graph.find_modules_directly_imported_by(module):
                if imported.partition(".")[0] != ours:
                    if imported not in allowed:
                        foreign.add((module, imported))
                elif imported not in reached:
                    reached.add(imported)
                    waiting.append(imported)
        return ContractCheck(kept=not foreign, metadata={"foreign": sorted(foreign)})

    def render_broken_contract(self, check: ContractCheck) -> None:
        for module, imported in check.metadata["foreign"]:
            output.print_error(f"{module} imports {imported}")
