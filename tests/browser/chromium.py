"""Headless Chromium, and a driver that bears with a page that draws itself anew."""

import time
from pathlib import Path
from typing import Any

from selenium import webdriver
from selenium.common.exceptions import (
    ElementClickInterceptedException,
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
)
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.remote.command import Command

FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--autoplay-policy=no-user-gesture-required",
    "--force-prefers-reduced-motion",
]
#: What a click meets while something opens or closes.
NOT_YET = (ElementClickInterceptedException, ElementNotInteractableException)
#: How long a click waits for that to end, in seconds.
PATIENCE_S = 3.0


class Driver(webdriver.Chrome):
    """Chromium's driver for a page that redraws between two commands.

    An element that was drawn anew since it was found is found again in the same way, whatever is done with it;
    a click waits until it can be made. Neither has done anything when it is refused, so nothing is done twice.
    """

    def __init__(self, **options: Any) -> None:
        self._finds: dict[str, tuple[str, dict[str, Any]]] = {}
        super().__init__(**options)

    def execute(self, driver_command: str, params: dict[str, Any] | None = None) -> dict[str, Any]:
        end = time.monotonic() + PATIENCE_S
        params = self._wrap_value(params)
        while True:
            try:
                answer = super().execute(driver_command, params)
                break
            except StaleElementReferenceException:
                again = self._found_again(params)
                if again == params:
                    raise
                params = again
            except NOT_YET:
                if driver_command != Command.CLICK_ELEMENT or time.monotonic() > end:
                    raise
                time.sleep(0.05)
        if params and driver_command in (Command.FIND_ELEMENT, Command.FIND_CHILD_ELEMENT):
            self._finds[answer["value"].id] = driver_command, params
        return answer

    def _found_again(self, value: Any) -> Any:
        """The same, with each element that can be found again as it is now."""
        if isinstance(value, dict):
            return {key: self._found_again(inner) for key, inner in value.items()}
        if isinstance(value, list | tuple):
            return [self._found_again(inner) for inner in value]
        how = self._finds.get(value) if isinstance(value, str) else None
        if how is None:
            return value
        try:
            return self.execute(*how)["value"].id
        except (NoSuchElementException, StaleElementReferenceException):
            return value


def chromium(profile: Path, downloads: Path | None = None) -> Driver:
    """Headless Chromium with a profile of its own."""
    options = webdriver.ChromeOptions()
    for flag in (*FLAGS, f"--user-data-dir={profile}"):
        options.add_argument(flag)
    options.binary_location = "/usr/bin/chromium"
    if downloads is not None:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads)})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    return Driver(options=options, service=Service("/usr/bin/chromedriver"))
