"""Judging a pass by its readings: the odd one out, the one that rose without turning, the one that turned without rising.

The rule: a value stands out when it is further from the median than `LIMIT` times the spread. The spread is the median
absolute deviation, made comparable with a standard deviation, and never below what the evidence is assumed to scatter:

- the torque at which an electronic wrench ends at one angle: 1 % (assumed, no source),
- the degrees to one torque in a rising stage: 5 % (assumed, no source: friction and the joint both enter),
- the torque that was read at one figure: 2 % (assumed, no source: the hand that stops). Each is inside or outside of its band, which
  is judged by itself; so who stands out here is drawn, and nobody is asked about it.

What it is worth, by simulation at normal scatter of the assumed size (tests/core/test_scatter.py repeats it): a good one
is pointed at in fewer than 1 of 50 passes of 8; `POWER` says how often a bad one is named. Half the time it is named when
it is off by `LIMIT` spreads; below that it is likelier missed than named, and what is shown says so.
"""

import statistics
from collections.abc import Mapping, Sequence
from typing import Literal

from tight_ledger.core.base.bands import Reading
from tight_ledger.core.base.models import Model
from tight_ledger.core.base.units import from_nm
from tight_ledger.core.joints.names import by_number, name_of, names_of
from tight_ledger.core.records.entries import TIGHTENING, Entry
from tight_ledger.core.records.plans import Pass, Plan
from tight_ledger.core.runs.prompt import stage_words

Evidence = Literal["torque at one angle", "angle to one torque", "torque to one figure"]

FEWEST = 4
LIMIT = 3.5
ASSUMED: dict[Evidence, float] = {"torque at one angle": 0.01, "angle to one torque": 0.05, "torque to one figure": 0.02}
"""What each kind of evidence is taken to scatter, as a share of its median. Assumed, no source."""
NORMAL = 1.4826
"""A normal distribution's standard deviation over its median absolute deviation."""
POWER: dict[int, tuple[float, float, float]] = {
    4: (0.13, 0.52, 0.87),
    6: (0.16, 0.63, 0.95),
    8: (0.17, 0.69, 0.98),
    10: (0.18, 0.72, 0.99),
    12: (0.19, 0.75, 0.99),
}
"""By the number of fasteners: how often one that is off by 3, 5 and 8 % is named, torque at one angle, at 1 % scatter."""
STUCK_DEG = 1.0
"""A nut that takes a higher stage within this much has not turned. Common practice, no source."""
RUNS_ON = 2.5
"""Turned so many times as far as the others and still below the band: stripped or yielding. Common practice, no source."""


class Odd(Model):
    """A fastener that stands out in a pass, what that usually means, and what to do."""

    fastener: str
    name: str
    """As a sentence says it: `bolt 4`."""
    pass_id: str
    what: str
    means: str
    then: str


class Agreement(Model):
    """How the fasteners of a pass agree, those of one figure together: what each read, and from where one stands out."""

    pass_id: str
    stage: str
    who: str
    """`bolts 1, 2, 3`."""
    evidence: Evidence
    unit: str
    values: dict[str, float]
    """By fastener, in `unit`, as read."""
    middle: float
    low: float
    high: float
    """Outside low to high a value stands out."""
    odd: tuple[str, ...]
    words: str
    """How far apart they are, and what this cannot tell."""


class Scatter(Model):
    """What the readings of a run say about its fasteners: how each pass agrees, and who stands out."""

    passes: tuple[Agreement, ...]
    odd: tuple[Odd, ...]


def spread_of(values: Sequence[float], assumed: float) -> float:
    """The robust standard deviation of the values, in their unit, never below the assumed share of the median.

    Args:
        values: at least one, above 0.
        assumed: a share, 0 to 1.
    """
    middle = statistics.median(values)
    return max(NORMAL * statistics.median(abs(value - middle) for value in values), assumed * abs(middle))


def odd_ones(values: Mapping[str, float], assumed: float) -> dict[str, float]:
    """The names whose value lies far from the median, with how far in spreads; fewer than four values: none.

    Args:
        values: a reading for each fastener, in one unit, above 0.
        assumed: what such readings are taken to scatter, as a share of their median.
    """
    if len(values) < FEWEST:
        return {}
    middle, spread = statistics.median(values.values()), spread_of(list(values.values()), assumed)
    return {name: away for name, value in values.items() if (away := abs(value - middle) / spread) > LIMIT}


def of_run(plan: Plan, live: Sequence[Entry]) -> Scatter:
    """How the passes of a run agree, and what stands out in them.

    Args:
        live: the run's entries that count.
    """
    passes = {pull.id: pass_ for pass_ in plan.passes for pull in pass_.pulls}
    words = stage_words(plan)
    told: dict[str, dict[str, Entry]] = {}
    for entry in live:
        if entry.kind in TIGHTENING and entry.pull in passes and entry.fastener is not None:
            of_pass = told.setdefault(passes[entry.pull].id, {})
            of_pass[entry.fastener] = _after(of_pass.get(entry.fastener), entry)
    torques = [pass_.id for pass_ in plan.passes if pass_.kind == "torque"]
    agreeing: list[Agreement] = []
    odd: list[Odd] = []
    for pass_ in plan.passes:
        if (entries := told.get(pass_.id)) is not None:
            rising = pass_.id in torques and pass_.id != torques[0]
            for alike in _alike(pass_, entries):
                agreements = _agreements(plan, pass_, words[pass_.id], alike, rising=rising)
                agreeing += agreements
                odd += _odd(plan, pass_, words[pass_.id], alike, agreements, rising=rising)
    return Scatter(passes=tuple(agreeing), odd=tuple(odd))


def _after(before: Entry | None, entry: Entry) -> Entry:
    """A fastener's newest entry of a pass, with how far it turned in all of them."""
    if before is None or before.pull != entry.pull or before.turned is None or entry.turned is None:
        return entry
    return entry.model_copy(update={"turned": Reading(figure=before.turned.stored + entry.turned.stored, unit="°")})


def _alike(pass_: Pass, entries: dict[str, Entry]) -> list[dict[str, Entry]]:
    """A pass's entries by figure: a small bolt is not held against a large one."""
    bands = {pull.fastener: (pull.band.low, pull.band.high) if pull.band is not None else None for pull in pass_.pulls}
    groups: dict[tuple[float, float] | None, dict[str, Entry]] = {}
    for label, entry in entries.items():
        groups.setdefault(bands.get(label), {})[label] = entry
    return list(groups.values())


def _agreements(plan: Plan, pass_: Pass, words: str, entries: dict[str, Entry], *, rising: bool) -> list[Agreement]:
    turned = {label: e.turned.stored for label, e in entries.items() if e.turned is not None and pass_.kind == "torque" and rising}
    ended = {label: e.end_torque.stored for label, e in entries.items() if e.end_torque is not None and pass_.kind == "angle"}
    read = {label: e.reading.torque_nm for label, e in entries.items() if e.reading is not None and pass_.kind == "torque"}
    unit = plan.units_read.get(next(iter(entries)), "N·m")
    pairs: tuple[tuple[Evidence, dict[str, float], str], ...] = (
        ("angle to one torque", turned, "°"),
        ("torque at one angle", {label: from_nm(torque_nm, unit) for label, torque_nm in ended.items()}, unit),
        ("torque to one figure", {label: from_nm(torque_nm, unit) for label, torque_nm in read.items()}, unit),
    )
    return [_agreement(plan, pass_, words, evidence, values, unit) for evidence, values, unit in pairs if len(values) > 1]


def _agreement(plan: Plan, pass_: Pass, words: str, evidence: Evidence, values: dict[str, float], unit: str) -> Agreement:
    assumed = ASSUMED[evidence]
    middle, spread = statistics.median(values.values()), spread_of(list(values.values()), assumed)
    away = LIMIT * spread
    share = 100 * away / middle if middle else 0.0
    if len(values) < FEWEST:
        said = f"Only {len(values)} readings: that is too few to tell an odd one."
    elif spread > 2 * assumed * middle:
        said = (
            f"They lie far apart ({100 * spread / middle:.0f} %, where {100 * assumed:.0f} % is assumed). This cannot tell one that is off "
            f"by less than {share:.0f} %, and one that stands out may be a good one."
        )
    else:
        said = f"This cannot tell one that is off by less than {share:.1f} %."
    return Agreement(
        pass_id=pass_.id, stage=words, who=names_of(plan.nouns, values), evidence=evidence, unit=unit,
        middle=middle, low=middle - away, high=middle + away,
        values=dict(sorted(values.items(), key=lambda item: by_number(item[0]))), odd=tuple(odd_ones(values, assumed)), words=said,
    )  # fmt: skip


def _odd(plan: Plan, pass_: Pass, words: str, entries: dict[str, Entry], agreements: list[Agreement], *, rising: bool) -> list[Odd]:
    bands = {pull.fastener: pull.band for pull in pass_.pulls}
    found = []

    def say(label: str, what: str, means: str, then: str) -> None:
        found.append(
            Odd(fastener=label, name=name_of(plan.nouns, label), pass_id=pass_.id, what=f"{words}: {what}", means=means, then=then)
        )

    turned = {label: e.turned.stored for label, e in entries.items() if e.turned is not None and pass_.kind == "torque" and rising}
    stuck = {label for label, degrees in turned.items() if degrees < STUCK_DEG}
    for label in sorted(stuck, key=by_number):
        say(
            label, "the torque rose and it did not turn", "A dry or damaged thread, or it was tight already.",
            "Loosen it, look, and bring it up again.",
        )  # fmt: skip
    for agreed in agreements:
        for label in agreed.odd:
            value, middle = agreed.values[label], agreed.middle
            apart = f"{abs(value - middle) / middle * 100:.0f} % {'above' if value > middle else 'below'} the others"
            if agreed.evidence == "torque at one angle":
                say(
                    label, f"ended at {value:.0f} {agreed.unit}, {apart} ({middle:.0f})",
                    "At the same angle it holds otherwise: friction, a soft bolt, or a snug stage that was not even.",
                    "Look at this one; do not make up for it on the next.",
                )  # fmt: skip
            elif agreed.evidence == "angle to one torque" and label not in stuck:
                reading, band = entries[label].reading, bands.get(label)
                low = reading is not None and band is not None and band.judge(reading.stored) == "low"
                if low and value > RUNS_ON * middle:
                    say(
                        label, "it turns and the torque does not rise", "Stripped, or past its yield.",
                        "Stop; replace it and look at the thread.",
                    )  # fmt: skip
                else:
                    say(
                        label, f"turned {value:.0f}°, {apart} ({middle:.0f}°)",
                        "Another friction than the rest, or something under its head.", "Look at this one before going on.",
                    )  # fmt: skip
    return found
