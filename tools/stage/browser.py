"""A headless Chromium for tests and pictures."""

import tempfile
from collections.abc import Callable
from typing import TypeVar

from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.support.ui import WebDriverWait

Found = TypeVar("Found")
FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --force-device-scale-factor=1 --hide-scrollbars"
)


class Browser:
    """One browser with an empty profile. Use as a context manager."""

    def __init__(self, width: int = 1280, height: int = 800) -> None:
        self._profile = tempfile.TemporaryDirectory(prefix="goodbalance-chromium-", ignore_cleanup_errors=True)
        options = Options()
        options.binary_location = "/usr/bin/chromium"
        for flag in (*FLAGS.split(), f"--user-data-dir={self._profile.name}"):
            options.add_argument(flag)
        options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
        self.driver = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
        self.size(width, height)

    def __enter__(self) -> "Browser":
        return self

    def __exit__(self, *_: object) -> None:
        self.driver.quit()
        self._profile.cleanup()

    def size(self, width: int, height: int, touch: bool = False) -> None:
        """The viewport exactly, which --window-size does not give."""
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": touch}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)

    def until(self, look: Callable[[], Found], seconds: float = 40.0) -> Found:
        """Wait until something is there and give it back; a page that is just being replaced is asked again."""
        return WebDriverWait(self.driver, seconds, 0.05, (WebDriverException,)).until(lambda _: look())

    def complaints(self) -> list[str]:
        """Errors that the page's scripts or the policy left in the console; not what a page that was left had still asked for."""
        severe = (entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE")
        return [message for message in severe if "net::ERR_ABORTED" not in message]
