"""Every main view: no serious finding of the accessibility checker, no sideways scrolling, in all looks and widths."""

import unittest
from pathlib import Path

from goodbalance.core.record.chain import Kind
from goodbalance.demo.kestrel_point import LEAD, PASSWORD, load_demo
from goodbalance.store import records
from tools.stage.browser import Browser
from tools.stage.server import WebServer, empty_session
from tools.stage.technician import Technician

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text(encoding="utf-8")
VIEWS = (
    "survey",
    "drawdown",
    "motors",
    "energising?step=supply",
    "guarded",
    "why",
    "noticing",
    "reckon",
    "rehearse",
    "enter",
    "enter?one=1",
    "wires",
    "wiring",
    "families",
    "live",
    "prove",
    "handover",
    "card",
    "log",
)
TRIPLEX_VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "scaling", "trends")
BOOSTER_VIEWS = (
    "survey",
    "reckon",
    "sweep",
    "sweep?supply=high",
    "loop",
    "energy",
    "rehearse",
    "enter",
    "prove",
    "handover",
    "noticing",
    "why",
    "energising",
    "card",
    "pressure-trends",
    "log",
)
RING_VIEWS = ("survey", "reckon", "modes", "rehearse", "enter", "prove", "handover", "card")
MAINTENANCE_VIEWS = ("survey", "reckon", "rehearse", "enter", "prove", "handover", "energising", "card")
TRANSFER_VIEWS = ("survey", "reckon", "ways", "rehearse", "enter", "enter?one=1", "prove", "handover", "wiring", "energising", "motors", "scaling", "card")


class AccessTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        with empty_session() as session:
            load_demo(session)
            session.commit()
            ids = {row.name: row.id for row in records.stations(session)}
            entries = records.entries(session, ids["Seal clinic lift"])
            aquarium = records.entries(session, ids["Aquarium booster"])
        trend = next(entry.seq for entry in entries if entry.kind is Kind.TREND)
        hour = next(entry.seq for entry in aquarium if entry.kind is Kind.TREND)
        booster = f"/stations/{ids['Aquarium booster']}"
        slipway, clinic = f"/stations/{ids['Slipway sump']}", f"/stations/{ids['Seal clinic lift']}"
        cls.paths = ["/", "/people", "/controllers", "/families/new?like=dabberlock_panel", *(f"{slipway}/{view}" for view in VIEWS)]
        cls.paths += [*(f"{clinic}/{view}" for view in TRIPLEX_VIEWS), f"{clinic}/trends/{trend}", f"{clinic}/trends/{trend}/proofs"]
        cls.paths += [*(f"{booster}/{view}" for view in BOOSTER_VIEWS), f"{booster}/pressure-trends?seq={hour}"]
        cls.paths += [f"/stations/{ids['Pier fire line']}/{view}" for view in MAINTENANCE_VIEWS]
        cls.paths += [f"/stations/{ids['Bunkhouse ring']}/{view}" for view in RING_VIEWS]
        cls.paths += [f"/stations/{ids['Brine header transfer']}/{view}" for view in TRANSFER_VIEWS]
        cls.web = cls.enterClassContext(WebServer())
        cls.browser = cls.enterClassContext(Browser())
        cls.tech = Technician(cls.browser, cls.web.address)
        cls.tech.open("/sign-in")
        cls.tech.one("#name").send_keys(LEAD)
        cls.tech.one("#password").send_keys(PASSWORD)
        cls.tech.one("button.go").click()
        cls.tech.see("h1", "Stations")

    def open(self, path: str) -> None:
        self.tech.open(path)
        self.tech.wait(lambda: self.tech.driver.execute_script("return document.readyState") == "complete")

    def look(self, theme: str) -> None:
        self.tech.open("/")
        self.tech.one(f'select[name="theme"] option[value="{theme}"]').click()
        self.tech.one(f'html[data-look="{theme}"]')

    def test_no_serious_finding_in_any_look(self) -> None:
        for theme in ("paper", "pit", "sun"):
            self.look(theme)
            # colours are shared: the other looks need one page of each kind only
            for path in self.paths if theme == "paper" else self.paths[: len(VIEWS) + 3]:
                with self.subTest(theme=theme, path=path):
                    self.open(path)
                    self.tech.driver.execute_script(AXE)
                    found = self.tech.driver.execute_async_script(
                        "const done = arguments[arguments.length - 1];"
                        "axe.run(document, {resultTypes: ['violations'], rules: {'color-contrast-enhanced': {enabled: arguments[0]}}}).then((r) => done(r.violations"
                        ".filter((v) => ['serious', 'critical'].includes(v.impact))"
                        ".map((v) => v.id + ': ' + v.nodes.slice(0, 3).map((n) => n.html.slice(0, 160)).join(' | '))));",
                        theme == "sun",  # seven to one, for a dim screen in daylight
                    )
                    self.assertEqual(found, [])

    def test_nothing_is_wider_than_the_screen(self) -> None:
        # 640 x 400 is 1280 x 800 at 200 % zoom; a page redraws when its window changes, as when a phone is turned
        drawn = (
            "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => "
            "done(document.documentElement.scrollWidth)))"
        )
        for path in self.paths:
            self.browser.size(360, 640)
            self.open(path)
            for width, height in ((360, 640), (390, 844), (640, 400), (1280, 800), (1920, 1080)):
                with self.subTest(width=width, path=path):
                    self.browser.size(width, height)
                    self.assertLessEqual(self.tech.driver.execute_async_script(drawn), width)
        self.browser.size(1280, 800)

    def test_nothing_moves_after_it_is_shown(self) -> None:
        moved = (
            "const done = arguments[0]; let sum = 0; const add = (list) => { for (const one of list) sum += one.value; };"
            "const watch = new PerformanceObserver((seen) => add(seen.getEntries())); watch.observe({type: 'layout-shift', buffered: true});"
            "requestAnimationFrame(() => requestAnimationFrame(() => { add(watch.takeRecords()); done(sum); }))"
        )
        for width, height in ((1280, 800), (390, 844)):
            self.browser.size(width, height)
            for path in self.paths:
                with self.subTest(width=width, path=path):
                    self.open(path)
                    self.assertLessEqual(self.tech.driver.execute_async_script(moved), 0.05)
        self.browser.size(1280, 800)

    def test_pages_load_without_complaint_and_within_their_budget(self) -> None:
        self.browser.complaints()
        # as they come from the server: what the page's worker keeps is no longer packed
        self.tech.driver.execute_cdp_cmd("Network.enable", {})
        self.tech.driver.execute_cdp_cmd("Network.setBypassServiceWorker", {"bypass": True})
        for path in self.paths:
            self.open(path)
            loaded = self.tech.driver.execute_script(
                "return performance.getEntriesByType('resource').filter((r) => /\\.(js|css)$/.test(r.name))"
                ".reduce((sum, r) => sum + r.encodedBodySize, 0)"
            )
            self.assertLess(loaded, 200_000, path)
        self.tech.driver.execute_cdp_cmd("Network.setBypassServiceWorker", {"bypass": False})
        self.assertEqual(self.browser.complaints(), [])
