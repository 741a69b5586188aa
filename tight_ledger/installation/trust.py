"""What a tablet gets over plain HTTP: how to trust this server once, and the way to HTTPS for everything else."""

from collections.abc import Sequence
from html import escape
from io import BytesIO
from pathlib import Path

import segno
from cryptography import x509
from cryptography.hazmat.primitives.serialization import Encoding
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import RedirectResponse, Response
from starlette.routing import Route

from tight_ledger.installation.authority import Certificates, address_of

PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>Trust this server</title><style>
body {{ font: 1.15rem/1.5 sans-serif; max-width: 42rem; margin: 2rem auto; padding: 0 1rem; color: #232b31; background: #f4f2ea }}
a.key {{ display: inline-block; padding: .9rem 1.4rem; background: #5b3d78; color: #fff; text-decoration: none; font-weight: bold }}
code {{ font-size: 1rem; overflow-wrap: anywhere }} li {{ margin: .6rem 0 }} svg {{ display: block }}
</style><h1>Trust this server, once</h1>
<p>This tablet does not know Tight Ledger’s server yet. Then it says that the connection is not private.</p>
<p><a class="key" href="/trust/authority.crt">Get the certificate</a></p>
<p>Compare before you install it: its SHA-256 fingerprint is on the printed sheet.<br><code>{fingerprint}</code></p>
<ol>{steps}</ol>
<p><a class="key" href="{address}">Go to Tight Ledger</a></p>
<p><a href="/trust/sheet.pdf">The sheet, to print on the server and hang up</a>; on it is this code: {code}</p></html>"""


def at(name: str, port: int) -> str:
    """A name or an address with a port, as it stands in a URL."""
    address = address_of(name)
    return f"[{name}]:{port}" if address is not None and address.version == 6 else f"{name}:{port}"


def trust_app(made: Certificates, names: Sequence[str], port: int, plain_port: int) -> Starlette:
    """The application over plain HTTP.

    Args:
        names: that the server goes by.
        port: of HTTPS.
        plain_port: of this.
    """
    from tight_ledger.formats.trust_sheet import STEPS, trust_sheet

    certificate = x509.load_pem_x509_certificate(made.authority.read_bytes()).public_bytes(Encoding.DER)
    here = f"http://{at(names[0], plain_port)}/trust"

    def asked_name(request: Request) -> str:
        asked = request.url.hostname or ""
        return asked if asked in names else names[0]

    async def page(request: Request) -> Response:
        drawn = BytesIO()
        segno.make_qr(here, error="m").save(drawn, kind="svg", scale=4, light="#fff", xmldecl=False)
        steps = "".join(f"<li>{escape(step)}</li>" for step in STEPS)
        address = f"https://{at(asked_name(request), port)}/"
        said = PAGE.format(fingerprint=made.fingerprint, steps=steps, address=escape(address), code=drawn.getvalue().decode())
        return Response(said, media_type="text/html", headers={"Cache-Control": "no-store"})

    async def authority(_: Request) -> Response:
        return Response(certificate, media_type="application/x-x509-ca-cert")

    async def sheet(_: Request) -> Response:
        return Response(trust_sheet(here, made.fingerprint), media_type="application/pdf")

    async def elsewhere(request: Request) -> Response:
        query = f"?{request.url.query}" if request.url.query else ""
        return RedirectResponse(f"https://{at(asked_name(request), port)}{request.url.path}{query}", 308)

    return Starlette(
        routes=[
            Route("/trust", page),
            Route("/trust/authority.crt", authority),
            Route("/trust/sheet.pdf", sheet),
            Route("/{path:path}", elsewhere),
        ]
    )


def keep_sheet(folder: Path, made: Certificates, names: Sequence[str], plain_port: int) -> Path:
    """Write the sheet to print. Returns its file."""
    from tight_ledger.formats.trust_sheet import trust_sheet

    file = folder / "trust-sheet.pdf"
    file.write_bytes(trust_sheet(f"http://{at(names[0], plain_port)}/trust", made.fingerprint))
    return file
