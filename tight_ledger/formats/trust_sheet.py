"""A sheet to hang up: how a tablet trusts this workshop's server, once."""

from io import BytesIO

from reportlab.graphics.barcode.qr import QrCodeWidget
from reportlab.graphics.shapes import Drawing
from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer

from tight_ledger.formats.pages import fonts, style

STEPS = (
    "Get the certificate, and compare its fingerprint with the printed sheet. If it differs, stop and call the keeper.",
    "On a tablet with Android: Settings, Security, Encryption and credentials, Install a certificate, CA certificate; pick the file.",
    "On an iPad: allow the profile, Settings, Profile downloaded, Install; then General, About, Certificate trust settings, switch it on.",
    "On a computer: open the file, install it for authorities that identify web sites; or in the browser, Certificates, Import.",
    "Go to Tight Ledger. It opens without a warning.",
)
"""What differs from maker to maker is named as the maker names it; where it differs on a tablet, its own help counts."""
CODE_MM = 55


def trust_sheet(address: str, fingerprint: str) -> bytes:
    """The sheet as PDF.

    Args:
        address: of the page that leads through it; also as a code to scan.
        fingerprint: SHA-256 of the authority's certificate.
    """
    fonts()
    made = BytesIO()
    code = QrCodeWidget(address, barLevel="M")
    code.barWidth = code.barHeight = CODE_MM * mm
    drawing = Drawing(CODE_MM * mm, CODE_MM * mm)
    drawing.add(code)
    told: list[Flowable] = [
        Paragraph("Trust this server, once", style(22, bold=True)),
        Spacer(0, 6 * mm),
        Paragraph("Scan this with each tablet, or open the address:", style(11)),
        drawing,
        Paragraph(address, style(13, bold=True)),
        Spacer(0, 6 * mm),
        Paragraph("SHA-256 fingerprint of the certificate:", style(11)),
        Paragraph(f"{fingerprint[:47]}<br/>{fingerprint[48:]}", style(12, bold=True)),
        Spacer(0, 6 * mm),
        *(Paragraph(f"{number}. {step}", style(11)) for number, step in enumerate(STEPS, 1)),
    ]
    document = SimpleDocTemplate(
        made, pagesize=A4, leftMargin=22 * mm, rightMargin=22 * mm, topMargin=22 * mm, bottomMargin=22 * mm,
        title="Trust this server, once", author="Tight Ledger", invariant=1,
    )  # fmt: skip
    document.build(told)
    return made.getvalue()
