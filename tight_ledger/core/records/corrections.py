"""What an entry may correct or take back: by its kind, in one table. The rest of an entry stays as it was sealed.

What an instrument sent is never changed. A lead may say at which fastener it was read; the reading stays.
"""

from tight_ledger.core.records.entries import Entry, Report

CORRECTED_BY: dict[str, str] = {
    kind: kind for kind in ("set", "confirmed", "pulled", "checked", "loosened", "turned", "measured", "adjusted", "replaced", "noted")
}
"""By kind of entry, the kind that may correct it; one that is not named here is never corrected."""
TAKEN_BACK: frozenset[str] = frozenset(
    {"set", "confirmed", "pulled", "checked", "loosened", "turned", "measured", "adjusted", "replaced", "clarified", "undone"}
)
"""Kinds that can be taken back."""
MOVED: frozenset[str] = frozenset(
    {"id", "seq", "by", "recorded_by", "at_server", "skew_ms", "waited_ms", "pull", "fastener", "corrects", "claimed_seq", "text"}
)
"""Fields that come from a lead's entry about where an instrument was read. All others stay as the instrument sent them."""


def is_an_instruments(entry: Entry) -> bool:
    """Whether an instrument told it."""
    return entry.how == "wire" or entry.instrument is not None


def may_take_back(entry: Entry) -> bool:
    """Whether an entry can be taken back."""
    return entry.kind in TAKEN_BACK and not is_an_instruments(entry)


def only_moves(entry: Report) -> bool:
    """Whether a correction changes no figure, only where something was done."""
    return entry.reading is None and entry.needle is None and entry.setting is None and entry.moved is None


def may_correct(original: Entry, said: Report, step_of: dict[str, str]) -> bool:
    """Whether a report may stand in the place of an entry.

    Args:
        original: the first of a chain of corrections.
        step_of: by pull id, the id of its pass.
    """
    if CORRECTED_BY.get(original.kind) != said.kind:
        return False
    passes = [step_of.get(pull or "") for pull in (original.pull, said.pull)]
    if passes[0] != passes[1]:
        return False
    if is_an_instruments(original):
        return original.pull is not None and said.pull is not None and only_moves(said)
    return original.kind not in ("pulled", "checked") or original.fastener == said.fastener


def corrected(original: Entry, correction: Entry) -> Entry:
    """What is folded in the place of the original: nothing that was found about it, or sent by an instrument, is lost."""
    flags = (*(original.flags or ()), *(correction.flags or ())) or None
    fields = {"flags": flags, "unproven": (original.unproven or correction.unproven) or None}
    if is_an_instruments(original):
        return original.model_copy(update={name: getattr(correction, name) for name in MOVED} | fields)
    return correction.model_copy(update=fields)
