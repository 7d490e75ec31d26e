"""What a technician does in the browser, in a technician's words."""

import re
from collections.abc import Callable

from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from selenium.webdriver.support.select import Select

from tools.stage.browser import Browser


class Technician:
    """One person at one browser on one address."""

    def __init__(self, browser: Browser, address: str) -> None:
        self.browser, self.driver, self.address = browser, browser.driver, address

    # looking

    def one(self, css: str) -> WebElement:
        return self.browser.until(lambda: next(iter(self.driver.find_elements(By.CSS_SELECTOR, css)), None))

    def reach(self, css: str) -> WebElement:
        """The element, scrolled to the middle: away from bars at the edges."""
        element = self.one(css)
        self.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", element)
        return element

    def all(self, css: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, css)

    def see(self, css: str, words: str) -> str:
        """Wait until the element says these words; its text."""

        def look() -> str | None:
            text = self.one(css).text
            return text if words in text else None

        return self.browser.until(look)

    def wait(self, condition: Callable[[], object]) -> None:
        self.browser.until(lambda: bool(condition()))

    def number(self, css: str) -> float:
        """The first number an element shows or holds."""
        element = self.one(css)
        text = element.get_attribute("value") or element.text
        return float(re.findall(r"-?[0-9]+\.?[0-9]*", text)[0])

    def state(self, view: str) -> str:
        return self.one(f'.tabs a[data-view="{view}"] .how').text.strip()

    # going

    def open(self, path: str) -> None:
        self.driver.get(self.address + path)

    def begin(self, name: str, password: str) -> None:
        """Become the first person of an empty database."""
        self.open("/")
        self.one("#name").send_keys(name)
        self.one("#password").send_keys(password)
        self.one("button.go").click()
        self.see("h1", "Stations")

    def new_station(self, name: str, place: str, kind: str = "lift") -> None:
        self.one(f'#kind option[value="{kind}"]').click()
        self.one("#name").send_keys(name)
        self.one("#place").send_keys(place)
        self.one('form[action$="/stations"] button').click()
        self.one("#survey")

    def view(self, view: str) -> None:
        self.one(f'.tabs a[data-view="{view}"]').click()
        self.wait(lambda: view in self.driver.current_url)

    # doing

    def fill_in(self, facts: dict[str, str]) -> None:
        """Type every fact of the survey and leave the field, as a person does."""
        for path, text in facts.items():
            field = self.one(f'[data-fact="{path}"]')
            if field.tag_name == "select":
                field.find_element(By.CSS_SELECTOR, f'option[value="{text}"]').click()
            else:
                field.send_keys(Keys.CONTROL, "a", Keys.NULL, Keys.DELETE, text, Keys.TAB)

    def all_saved(self) -> None:
        self.wait(lambda: not int(self.driver.execute_script("return document.body.dataset.unsaved || 0")))

    def kept_in_browser(self) -> list[dict]:
        """What this browser keeps because the server has not acknowledged it."""
        script = "import('/static/js/unsaved_store.js').then((store) => store.all()).then(arguments[0])"
        return self.driver.execute_async_script(script)

    def drag_flag(self, setting_id: str, down_px: int) -> None:
        grip = self.one(f'[data-flag="{setting_id}"] .grip')
        ActionChains(self.driver).click_and_hold(grip).move_by_offset(0, down_px // 2).move_by_offset(
            0, down_px - down_px // 2
        ).release().perform()

    def type_setting(self, setting_id: str, text: str) -> None:
        """Type a setting's number in Reckon; tried again where the page draws it anew meanwhile."""

        def typed() -> bool:
            field = self.one(f'#setting-{setting_id} [data-level="{setting_id}"]')
            field.send_keys(Keys.CONTROL, "a", Keys.NULL, text, Keys.ENTER)
            return True

        self.browser.until(typed)

    def breaks(self, what: str, target: str = "") -> None:
        """Break or mend something on the bench: its part is chosen, its button pressed."""
        if not self.one("#breaks").is_displayed():
            self.one("#controls-open").click()  # on a phone
        button = self.one(f'[data-break="{what}"]' + (f'[data-target="{target}"]' if target else ""))
        part = button.find_element(By.XPATH, "./ancestor::*[@data-part]").get_attribute("data-part")
        Select(self.one("#break-part")).select_by_value(part or "")
        self.wait(button.is_displayed)
        button.click()

    def press(self, *keys: str) -> None:
        ActionChains(self.driver).send_keys(*keys).perform()

    def read_back_all(self) -> None:
        """At the panel, one number at a time: read each off the display and type it."""
        self.open(self.path("enter?one=1"))
        while "one=" in self.driver.current_url:
            here = self.driver.current_url
            shown = self.one(".huge .display").text
            field = self.one("#typed")
            if field.tag_name == "select":
                next(o for o in field.find_elements(By.TAG_NAME, "option") if o.text == shown).click()
            else:
                field.clear()
                field.send_keys(shown)
            self.one("form .button.go").click()
            self.wait(lambda here=here: self.driver.current_url != here)

    def observe(self, proof_id: str, seen: str, method: str = "real_water") -> None:
        box = self.one(f"#after-{proof_id}")
        if box.get_attribute("open") is None:
            box.find_element(By.TAG_NAME, "summary").click()
        field = self.one(f"#seen-{proof_id}")
        if field.tag_name == "select":
            field.find_element(By.CSS_SELECTOR, f'option[value="{seen}"]').click()
        else:
            field.send_keys(seen)
        self.one(f'#by-{proof_id} option[value="{method}"]').click()
        self.leave(lambda: box.find_element(By.CSS_SELECTOR, "button.go").click())

    def path(self, view: str) -> str:
        """A view of the station that is open now."""
        station = re.search(r"/stations/[0-9]+", self.driver.current_url)
        assert station is not None, self.driver.current_url
        return f"{station.group()}/{view}"

    def leave(self, doing: Callable[[], None]) -> None:
        """Do something that brings a new page, and wait for it: the old one is marked, the new one has no mark."""
        self.driver.execute_script("window.oldPage = true")
        doing()
        self.browser.until(
            lambda: self.driver.execute_script("return !window.oldPage && document.readyState === 'complete'")
        )
