"""The drill “find it”: questions in the shop's own library, to be answered with the fewest keys."""

import random

from tight_ledger.core.practice.drills import Course, DrillQuestion, Marks, Materials, SearchShown

QUESTIONS = 10


def find_it(chance: random.Random, materials: Materials, marks: Marks) -> Course:
    """Find the spec for a machine and a joint; the answer is its id, the figure how many keys it took."""
    specs = list(materials.specs)
    chance.shuffle(specs)
    used = 0
    asked = specs[:QUESTIONS]
    for number, spec in enumerate(asked, start=1):
        applies = spec.applies_to[0]
        answer = yield DrillQuestion(
            ask=f"{number} of {len(asked)}: {applies.maker} {applies.model}, {spec.title.lower()}. Open the spec.", picture=SearchShown()
        )
        right = answer.key == str(spec.id)
        used += int(answer.figure or 0)
        marks.tell(
            "Found."
            if right
            else f"It was {spec.title}, {applies.maker} {applies.model}: another machine's figure fits the wrench as well.",
            right=right,
        )
    marks.tell(f"{used} keys for {len(asked)} questions.")
