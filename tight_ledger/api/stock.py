"""The shims, spacers, washers and sleeves of the shop."""

from typing import Literal
from uuid import UUID

from fastapi import APIRouter, Request, Response
from starlette.concurrency import run_in_threadpool

from tight_ledger.api.dependencies import FILE_BODY, SignedIn, TheContext, Working, whole_body
from tight_ledger.api.downloads import saved_as
from tight_ledger.core.tools.pieces import PieceNow
from tight_ledger.formats.stock import read_stock, stock_csv, stock_xlsx
from tight_ledger.services.tools import pieces
from tight_ledger.services.tools.pieces import PieceSaid, StockLine

router = APIRouter(prefix="/api", tags=["stock"])
MOST_BYTES = 2_000_000
_TYPES = {"csv": "text/csv; charset=utf-8", "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}


@router.get("/stock", operation_id="list_stock")
async def list_stock(context: TheContext, actor: SignedIn) -> tuple[PieceNow, ...]:
    """Every piece: what it is, what it measures, whether it is at hand."""
    return await pieces.pieces(context)


@router.get("/stock.{form}", operation_id="download_stock", response_class=Response)
async def download_stock(form: Literal["csv", "xlsx"], context: TheContext, actor: SignedIn) -> Response:
    """The list as a table."""
    found = await pieces.pieces(context)
    content = await run_in_threadpool(stock_csv if form == "csv" else stock_xlsx, found)
    return Response(content, media_type=_TYPES[form], headers=saved_as(f"stock.{form}"))


@router.put("/stock/{file_id}", operation_id="bring_in_stock", openapi_extra=FILE_BODY)
async def bring_in_stock(file_id: UUID, request: Request, context: TheContext, actor: Working) -> tuple[StockLine, ...]:
    """Pieces from a CSV or XLSX file: those that are new are put on the list, the others measured anew."""
    rows = await run_in_threadpool(read_stock, await whole_body(request, MOST_BYTES))
    return await pieces.bring_in(context, actor, file_id, rows)


@router.post("/tools/{tool_id}/piece", operation_id="say_of_piece", status_code=204)
async def say_of_piece(tool_id: UUID, request: PieceSaid, context: TheContext, actor: Working) -> None:
    """A piece was used, came back, or was measured."""
    await pieces.say(context, actor, tool_id, request)
