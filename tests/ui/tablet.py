"""A tablet in somebody's hands: gestures by role and text, as a person finds things."""

import re
from collections.abc import Callable
from datetime import timedelta
from weakref import WeakSet

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, Page, Route, expect

from tests.shop import PINS, Shop
from tests.waiting import PATIENCE_S, until

KEY = "tap, space bar or foot switch"
"""What the main key of a run says."""
A_PULL = timedelta(seconds=6)
COUNTING = """() => {
  window.counted = { presses: 0, fields: 0 };
  const key = (event) => event.target.closest?.('button, a, [role=button]');
  addEventListener('click', (event) => { if (key(event)) counted.presses += 1; }, true);
  addEventListener('change', () => { counted.fields += 1; }, true);
  addEventListener('keydown', (event) => { if (event.key === ' ' && event.target.tagName !== 'INPUT') counted.presses += 1; }, true);
}"""
TAKES = """() => {
  const run = document.querySelector('[data-testid=seq]');
  return run?.getAttribute('aria-busy') !== 'true' || document.body.innerText.includes('Your last entry is kept');
}"""
"""Whether a press is taken, or sends again what is kept."""
AT_REST = """() => new Promise(requestAnimationFrame).then(() => Promise.allSettled(
  document.getAnimations().filter((each) => each.effect.getTiming().iterations !== Infinity).map((each) => each.finished)))"""
FOLLOW = """(path) => new Promise((done, refuse) => {
  const shown = () => document.documentElement.dataset.screen;
  const before = shown(), wanted = new URL(path, location).pathname;
  history.pushState({}, '', path);
  dispatchEvent(new PopStateEvent('popstate', { state: {} }));
  const look = () => shown() === wanted || shown() !== before ? done() : setTimeout(look, 10);
  setTimeout(() => refuse(new Error(`${wanted} did not come`)), 180000);
  look();
})"""


class Tablet:
    opened: "WeakSet[Tablet]" = WeakSet()

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
        self.clock, self.shop, self.known, self.local = shop.clock.now(), shop, known or "hoist 1", local
        self.context = browser.new_context(
            viewport={"width": width, "height": height},
            color_scheme=scheme,
            base_url=shop.url,
            service_workers="allow" if local else "block",
            reduced_motion="reduce",  # an animated press takes the browser twice as long
        )
        if not local:
            self.context.route("**/core/**", lambda route: route.abort())
        if known is not None:
            self.context.add_cookies([{"name": "tight_tablet", "value": shop.tablet(known), "url": shop.url, "sameSite": "Strict"}])
        self.context.set_default_timeout(1_000 * PATIENCE_S)
        self.context.clock.set_fixed_time(self.clock)
        self.page: Page = self.context.new_page()
        self.faults: list[str] = []
        self.opened.add(self)
        self.page.on("pageerror", lambda error: self.faults.append(str(error)))

    def close(self) -> None:
        self.opened.discard(self)
        self.context.close()
        assert self.faults == [], self.faults

    def counts(self) -> None:
        """From now on presses and typed fields are counted, until the page is loaded anew."""
        self.page.evaluate(COUNTING)

    def counted(self) -> dict[str, int]:
        return self.page.evaluate("counted")

    def button(self, name: str, *, exact: bool = False):
        return self.page.get_by_role("button", name=name, exact=exact)

    def later(self) -> None:
        """The tablet's clock goes on by as long as a pull takes; it stands still in between."""
        self.clock += A_PULL
        self.shop.clock.wind(seconds=A_PULL.total_seconds())
        self.context.clock.set_fixed_time(self.clock)

    def tap(self, name: str, *, exact: bool = False) -> None:
        self.later()
        self.button(name, exact=exact).click()

    def press_down(self, name: str) -> None:
        """Put a finger on a key that is held, as soon as it can be pressed; `page.mouse.up()` lifts it."""
        key = self.button(name)
        expect(key).to_be_enabled()
        key.hover()
        self.page.mouse.down()

    def sees(self, text: str) -> None:
        expect(self.page.get_by_text(text).first).to_be_visible()

    def unfold(self, what: str) -> None:
        """Open what is folded under these words."""
        self.page.locator("summary").filter(has_text=what).click()

    def comes_to_rest(self) -> None:
        """Every change of colour and place that has begun has ended."""
        self.page.evaluate(AT_REST)

    def until(self, holds: Callable[[], bool]) -> None:
        """Wait for what only the server shows."""
        until(holds, pause=lambda seconds: self.page.wait_for_timeout(1_000 * seconds))  # the page goes on meanwhile

    def sign_in(self, name: str = "Tam Reddick") -> "Tablet":
        """Sign somebody in, and open the home screen: at the door, where the tablet runs the core and signs what is pressed; else by
        a session's cookie."""
        if self.local:
            return self.sign_in_by_keyboard(name)
        secret = self.shop.session(name, self.known)
        self.context.add_cookies([{"name": "tight_session", "value": secret, "url": self.shop.url, "sameSite": "Strict"}])
        self.page.goto("/")
        expect(self.page.get_by_role("searchbox")).to_be_focused()
        return self

    def sign_in_by_keyboard(self, name: str = "Tam Reddick") -> "Tablet":
        """Sign somebody in on the sign-in screen: choose the name, type the PIN, press Enter."""
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
        """Go to a screen by its address. Where a core runs, it goes on, as when somebody follows a link; `page.reload()` ends it."""
        if self.local and self.page.url.startswith(self.shop.url):
            self.page.evaluate(FOLLOW, path)
        else:
            self.page.goto(path)
        return self

    def expect_nut(self, label: str, stage: str = "") -> None:
        now = self.page.get_by_role("region", name="now")
        expect(now).to_contain_text(f"nut {label}")
        expect(now).to_contain_text(stage)

    def at_run(self, run: str) -> "Tablet":
        """A run's screen, ready for the first press."""
        self.open(f"/runs/{run}")
        expect(self.page.get_by_text(KEY)).to_be_visible()
        return self

    def at_held_run(self, run: str) -> "Tablet":
        """A run's screen, once the tablet judges it itself, and could be opened again without the server."""
        self.open(f"/runs/{run}")
        expect(self.page.get_by_test_id("seq")).to_have_attribute("data-on-tablet", "true")
        self.page.wait_for_function("() => navigator.serviceWorker.controller !== null")  # the browser installs it beside the page
        expect(self.page.locator("footer").get_by_role("button").first).to_be_visible()
        if self.button("Not pulled").count():
            self.tap("Not pulled")
        return self

    def space(self) -> None:
        """A pull by foot switch, once the last one was answered or is kept."""
        self.page.wait_for_function(TAKES)
        self.later()
        self.page.keyboard.press("Space")

    def press_until(self, words: str, most: int = 80) -> None:
        """The main key of a run by foot switch, each press once the last is recorded, until the screen shows some words."""
        run = self.page.get_by_test_id("seq")
        for _ in range(most):
            expect(run).to_have_attribute("aria-busy", "false")
            expect(run).to_contain_text(re.compile(f"{KEY}|{re.escape(words)}"))  # what the key does next is read by then
            seq, shown = run.evaluate("(run) => [run.dataset.seq, document.body.innerText]")
            if words in shown:
                return
            self.space()
            expect(run).not_to_have_attribute("data-seq", seq)
        raise AssertionError(f"“{words}” did not come")

    def ends_good(self) -> None:
        """End a run of which everything is done, by foot switch and key, and come to its card."""
        self.sees("All done.")
        expect(self.button("Finish")).to_be_visible()  # only then is it known that no other joint of the job comes next
        self.page.keyboard.press("Space")
        self.tap("Good: end it")

    def holds(self, path: str) -> "Held":
        """Requests on a path stand still until the test lets them go on."""
        held = Held()
        self.page.route(path, held.take)
        return held

    def loses_an_answer(self, path: str) -> None:
        """The first answer on a path is lost on its way back; the server did what it was asked."""

        def lose(route: Route) -> None:
            route.fetch()
            route.abort()

        self.page.route(path, lose, times=1)

    def violations(self, *rules: str) -> list[str]:
        """What axe finds; by all its rules, or by some."""
        options = {"resultTypes": ["violations"]} | ({"runOnly": list(rules)} if rules else {})
        found = Axe().run(self.page, options=options).response["violations"]
        return [f"{v['id']}: {node['html'][:120]}" for v in found for node in v["nodes"]]


class Held:
    """Requests that stand still."""

    def __init__(self) -> None:
        self.routes: list[Route] = []
        self._open = False

    def take(self, route: Route) -> None:
        if self._open:
            route.continue_()
        else:
            self.routes.append(route)

    def answer(self, status: int) -> None:
        """All that stand still are answered so; later ones stand still again."""
        while self.routes:
            self.routes.pop().fulfill(status=status, json={})

    def let_go(self) -> None:
        """All go on, and whatever comes later."""
        self._open = True
        while self.routes:
            self.routes.pop().continue_()
