"""A tablet in somebody's hands: gestures by role and text, as a person finds things."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, Route, expect

from tests.shop import PINS, Shop

A_PULL = timedelta(seconds=6)


class Tablet:
    def __init__(
        self,
        browser: Browser,
        shop: Shop,
        *,
        scheme: str = "light",
        width: int = 1280,
        height: int = 800,
        known: str | None = "hoist 1",
        local: bool = False,
    ):
        """A tablet.

        Args:
            known: the name by which it was introduced; None for a tablet that is new.
            local: whether it runs the core itself; otherwise it cannot fetch it, and the server says what comes next.
        """
        self.clock = datetime.now(UTC)
        self.context = browser.new_context(
            viewport={"width": width, "height": height},
            color_scheme=scheme,
            base_url=shop.url,
            service_workers="allow" if local else "block",
        )
        if not local:
            self.context.route("**/core/**", lambda route: route.abort())
        if known is not None:
            self.context.add_cookies([{"name": "tight_tablet", "value": shop.tablet(known), "url": shop.url, "sameSite": "Strict"}])
        self.page: Page = self.context.new_page()
        self.faults: list[str] = []
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))

    def close(self) -> None:
        self.context.close()
        assert self.faults == []

    def button(self, name: str, *, exact: bool = False):
        return self.page.get_by_role("button", name=name, exact=exact)

    def later(self) -> None:
        """The tablet's clock goes on by as long as a pull takes; it stands still in between."""
        self.clock += A_PULL
        self.page.clock.set_fixed_time(self.clock)

    def tap(self, name: str, *, exact: bool = False) -> None:
        self.later()
        self.button(name, exact=exact).click()

    def sees(self, text: str) -> None:
        expect(self.page.get_by_text(text).first).to_be_visible()

    def until(self, holds: Callable[[], bool]) -> None:
        """Wait for what only the server shows."""
        for _ in range(300):
            if holds():
                return
            self.page.wait_for_timeout(50)
        raise AssertionError("it did not come to hold")

    def sign_in(self, name: str = "Tam Reddick") -> "Tablet":
        """By a keyboard: the PIN is typed as soon as the name is chosen."""
        self.page.goto("/")
        self.tap(name)
        expect(self.page.get_by_label("PIN")).to_be_focused()
        self.page.keyboard.type(PINS[name])
        self.page.keyboard.press("Enter")
        expect(self.page.get_by_role("searchbox")).to_be_focused()
        return self

    def at_the_door(self, name: str, pin: str) -> None:
        self.tap(name)
        for digit in pin:
            self.tap(digit, exact=True)
        self.tap("Sign in")

    def open(self, path: str) -> "Tablet":
        self.page.goto(path)
        return self

    def expect_nut(self, label: str, stage: str = "") -> None:
        now = self.page.get_by_role("region", name="now")
        expect(now).to_contain_text(f"nut {label}")
        expect(now).to_contain_text(stage)

    def at_run(self, run: str) -> "Tablet":
        """A run's screen, ready for the first press."""
        self.open(f"/runs/{run}")
        expect(self.page.get_by_text("tap, space bar or foot switch")).to_be_visible()
        return self

    def at_held_run(self, run: str) -> "Tablet":
        """A run's screen, once the tablet judges it itself."""
        self.open(f"/runs/{run}")
        expect(self.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true", timeout=60_000)
        if self.button("Not pulled").count():
            self.tap("Not pulled")
        return self

    def space(self) -> None:
        """A pull by foot switch."""
        self.later()
        self.page.keyboard.press("Space")

    def loses_an_answer(self, path: str) -> None:
        """The first answer on a path is lost on its way back; the server did what it was asked."""

        def lose(route: Route) -> None:
            route.fetch()
            route.abort()

        self.page.route(path, lose, times=1)

    def violations(self) -> list[str]:
        found = Axe().run(self.page).response["violations"]
        return [f"{v['id']}: {node['html'][:120]}" for v in found for node in v["nodes"]]
