"""The booklet: every spec with its notes beside it, an index with pages, and the day to throw it away."""

import io
from datetime import UTC, datetime
from pathlib import Path

import pytest
from pypdf import PdfReader

from tight_ledger.core.base.errors import Invalid
from tight_ledger.core.base.policy import Policy
from tight_ledger.core.proof.checkpoints import Checkpoint, read_checkpoint
from tight_ledger.core.proof.keys import SigningKey
from tight_ledger.demo import load
from tight_ledger.formats.booklet import booklet_pdf
from tight_ledger.formats.tables import read_csv
from tight_ledger.store.shop import Shop

SHOP = Shop(name="Saltmarsh Quay", time_zone="Europe/London", policy=Policy())
PRINTED = datetime(2026, 3, 2, 12, 0, tzinfo=UTC)


@pytest.fixture(scope="module")
def pages():
    specs = [candidate.spec for candidate in read_csv(Path(load.__file__).parent / "specs.csv")]
    specs.sort(key=lambda spec: (spec.applies_to[0].maker, spec.applies_to[0].model, spec.title))
    return specs, [page.extract_text() for page in PdfReader(io.BytesIO(booklet_pdf(specs, SHOP, PRINTED))).pages]


def page_of(pages, heading):
    return next(number for number, text in enumerate(pages, start=1) if heading in text)


def test_every_spec_is_there_and_the_index_knows_its_page(pages):
    specs, texts = pages
    for spec in specs:
        applies = spec.applies_to[0]
        assert any(f"{applies.maker} {applies.model} · {spec.title}" in text for text in texts[1:]), spec.title
    page = page_of(texts, "Stourholm Heron 45 · Bevel pinion")
    index = " ".join(texts[:4])
    line = index[index.index("Bevel pinion") :][:60]
    assert f" {page}" in line.replace("\n", " ")


def test_notes_stand_with_the_spec_and_not_at_the_back(pages):
    _, texts = pages
    text = texts[page_of(texts, "Aldermoor Lapwing · Rocker shaft") - 1]
    own = text[text.index("Aldermoor Lapwing · Rocker shaft") :]
    for note in (
        "The thin-bodied bolt stands at 5",
        "Two turns at a time, or the shaft bends.",
        "Source: Lapwing repair manual, page A-28",
    ):
        assert note in own[:1200].replace("\n", " ")


def test_every_page_says_until_when_it_is_good(pages):
    _, texts = pages
    assert all("printed 2 Mar 2026 · throw away after 31 May 2026" in text for text in texts)


def test_the_last_checkpoint_stands_on_it_as_a_short_code(pages):
    [spec, *_], _ = pages
    key = SigningKey("tight-ledger/test", bytes(32))
    signed = read_checkpoint(Checkpoint(key.name, 8, bytes(32), 1, 0, PRINTED).signed_by(key))
    texts = [page.extract_text() for page in PdfReader(io.BytesIO(booklet_pdf([spec], SHOP, PRINTED, signed))).pages]
    assert f"Checkpoint {signed.checkpoint.code}" in texts[-1]


def test_the_fonts_are_in_the_file(pages):
    specs, _ = pages
    reader = PdfReader(io.BytesIO(booklet_pdf(specs[:1], SHOP, PRINTED)))
    fonts = [font.get_object() for page in reader.pages for font in page["/Resources"]["/Font"].values()]
    assert fonts
    assert all("B612" in str(font["/BaseFont"]) for font in fonts if "+" in str(font["/BaseFont"]))


def test_nothing_to_print_says_so():
    with pytest.raises(Invalid, match="No spec in force"):
        booklet_pdf([], SHOP, PRINTED)
