"""Hands and eyes on the page, for the tests that work in it as an editor does."""

import base64
import io
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.chromium import NOT_YET, Driver
from tests.browser.conftest import Server, until
from tests.edits import told
from tests.spans import seen
from zembi.core.programme.model import source_frames
from zembi.core.timebase import timecode_to_frame
from zembi.demo.countmarks import read_count
from zembi.media.probe import frame_times

RATE = Fraction(24)


class Editor:
    """Hands and eyes on the page."""

    def __init__(self, page: Driver, server: Server) -> None:
        self.page, self.server = page, server
        self._times: dict[str, Any] = {}

    def go(self, view: str) -> None:
        self.page.get(f"{self.server.url}/p/lamp-room/{view}")
        until(lambda: self.page.find_elements(By.CSS_SELECTOR, "[data-testid=bar-beat]"), f"{view} opens")

    def element(self, css: str, seconds: float = 30) -> WebElement:
        """The first thing that a selector finds, once it is drawn."""
        return until(lambda: next(iter(self.page.find_elements(By.CSS_SELECTOR, css)), None), css, seconds)

    def find(self, test_id: str, seconds: float = 30) -> WebElement:
        return self.element(f'[data-testid="{test_id}"]', seconds)

    def click(self, test_id: str) -> None:
        self.press(f'[data-testid="{test_id}"]')

    def press(self, css: str, words: str | None = None, part: bool = False) -> None:
        """Click what a selector finds (the first, or the first that says `words`) once it can be clicked.

        What opens is for a moment without a place, or lies under what closes: it is tried until it can be.
        """

        def pressed() -> bool:
            for element in self.page.find_elements(By.CSS_SELECTOR, css):
                try:
                    said = words is None or (words in element.text if part else words == element.text.strip())
                    if said and element.is_enabled():
                        self.page.execute_script("arguments[0].scrollIntoView({block: 'nearest'})", element)
                        element.click()
                        return True
                except (*NOT_YET, StaleElementReferenceException):
                    pass
            return False

        until(pressed, f"{css} {words or ''} can be clicked")

    def keys(self, *keys: str) -> None:
        chain = ActionChains(self.page)
        for key in keys:
            chain.send_keys(key)
        chain.perform()

    def chord(self, *modifiers: str, key: str) -> None:
        chain = ActionChains(self.page)
        for modifier in modifiers:
            chain.key_down(modifier)
        chain.send_keys(key)
        for modifier in reversed(modifiers):
            chain.key_up(modifier)
        chain.perform()

    def seek(self, seconds: float) -> None:
        """Click in the song strip at a song time."""
        strip = self.find("song-strip")
        x = seconds / self.server.get()["song"]["seconds"] * strip.size["width"] - strip.size["width"] / 2
        ActionChains(self.page).move_to_element_with_offset(strip, round(x), 0).click().perform()

    def choose_clip(self, name: str) -> None:
        """Bring a B-roll clip into sight and choose it."""
        picture = self.find(f"clip-{name}").find_element(By.CSS_SELECTOR, "[data-testid=clip-picture]")
        self.page.execute_script("arguments[0].scrollIntoView({block: 'center', inline: 'center'})", picture)
        ActionChains(self.page).move_to_element(picture).click().perform()
        until(
            lambda: "on" in (self.find(f"clip-{name}").get_attribute("class") or "").split(),
            f"{name} is chosen",
        )

    def edit(self) -> dict[str, Any]:
        """What the server says of the demo's edit."""
        return told(self.server.get("/edits/1"))

    def frame(self) -> int:
        """The programme frame under the playhead."""
        return timecode_to_frame(self.find("timecode").text, RATE)

    def programme(self) -> dict[str, Any]:
        """What the programme says it has drawn, and the picture itself."""
        self.element("#programme")
        return dict(self.page.execute_script(
            "const c = document.getElementById('programme'); return {...c.dataset, png: c.toDataURL('image/png')};"
        ))  # fmt: skip

    def expected(self, frame: int) -> tuple[str | None, int]:
        """File and source frame that the edit puts in a programme frame, by the core's own rule."""
        span = next(s for s in seen(self.edit()) if s.start <= frame < s.end)
        if span.media is None:
            return None, -1
        if span.media not in self._times:
            media = next(m for m in self.server.get()["media"] if m["id"] == span.media)
            self._times[span.media] = frame_times(Path(media["folder"]) / media["file"]).times
        return span.media, int(source_frames(span, RATE, self._times[span.media])[frame - span.start])

    def shows_right_frame(self) -> bool:
        """Whether the drawn picture carries the count of the frame that belongs under the playhead."""
        drawn = self.programme()
        media, source = self.expected(int(drawn["frame"]))
        picture = Image.open(io.BytesIO(base64.b64decode(drawn["png"].split(",")[1])))
        return (
            drawn["media"] or None,
            int(drawn["sourceFrame"]),
            read_count(np.asarray(picture.convert("RGB"))),
        ) == (media, source, source)

    def bpm(self) -> str:
        """The tempo that the Song view shows."""
        field = self.find("bpm")
        inner = field if field.tag_name == "input" else field.find_element(By.CSS_SELECTOR, "input")
        return str(inner.get_attribute("value"))

    def panel(self, name: str) -> None:
        """Open a panel of the Song view."""
        self.press("[data-testid=song-panels] .ant-segmented-item-label", name)
