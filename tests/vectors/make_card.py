"""Writes `proof/card.json` again: a card with its proof, as a shop gives it away: `python -m tests.vectors.make_card`."""

import tempfile
from pathlib import Path

from tests.shop import Shop

HERE = Path(__file__).parent


def main() -> None:
    with tempfile.TemporaryDirectory() as made, Shop(Path(made) / "data") as shop:
        tam = shop.hand()
        run = tam.start()
        tam.go_on(run)
        assert tam.finish(run).status_code == 201
        seq = tam.now(run)["seq"]
        assert tam.command(f"/api/runs/{run}/sign", {"seq": seq, "at_device": tam.clock.isoformat()}).status_code == 201
        (HERE / "proof" / "card.json").write_bytes(tam.http.get(f"/api/runs/{run}/card.json").content)


if __name__ == "__main__":
    main()
