"""The real page keeps to its own policy, and takes a double click and a damaged project as a person would give them."""

import sqlite3
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.chromium import Driver
from tests.browser.conftest import Server, serving, until
from zembi.demo.project import PROJECT_ID
from zembi.service.project.workspace import Workspace

pytestmark = pytest.mark.browser


@pytest.fixture
def empty(tmp_path: Path, page: Driver) -> Iterator[Server]:
    """A server without any project; the page leaves it before it goes."""
    with serving(tmp_path / "data") as server:
        yield server
        leave(page)


def leave(page: Driver) -> None:
    """Go to an empty page, and forget what was complained of."""
    page.get("about:blank")
    page.get_log("browser")


def complaints(page: Driver) -> list[str]:
    """What the browser refused or could not run, since last asked."""
    logged = [str(entry["message"]) for entry in page.get_log("browser")]
    return [m for m in logged if "Content Security Policy" in m or "Refused" in m or "SEVERE" in m]


def test_every_view_keeps_to_the_policy(page: Driver, server: Server) -> None:
    page.get_log("browser")
    for view in ("song", "lineup", "coverage", "sheet", "handoff"):
        page.get(f"{server.url}/p/{PROJECT_ID}/{view}")
        until(
            lambda: page.find_elements(By.CSS_SELECTOR, ".song-strip, [data-testid='strip'], canvas, .strip"),
            view,
        )
        time.sleep(0.6)
        assert complaints(page) == [], view
    page.find_element(By.TAG_NAME, "body").send_keys("?")
    page.get(f"{server.url}/p/{PROJECT_ID}/sheet")
    until(lambda: page.execute_script("return document.querySelectorAll('canvas').length"), "the picture")
    page.find_element(By.TAG_NAME, "body").send_keys(Keys.SPACE)
    time.sleep(1.5)
    page.find_element(By.TAG_NAME, "body").send_keys(Keys.SPACE)
    assert complaints(page) == [], "playing"


def test_what_another_site_would_inject_is_not_run(page: Driver, server: Server) -> None:
    page.get(f"{server.url}/")
    page.execute_script(
        "const s = document.createElement('script'); s.textContent = 'window.taken = 1'; document.body.append(s);"
        "const i = document.createElement('img'); i.setAttribute('onerror', 'window.taken = 2'); i.src = 'data:x'; document.body.append(i);"
    )
    time.sleep(0.3)
    assert page.execute_script("return window.taken") is None
    assert complaints(page), "the browser says what it refused"
    leave(page)


def test_a_double_click_on_make_project_makes_one_and_opens_it(page: Driver, empty: Server) -> None:
    page.get(empty.url)
    until(lambda: page.find_elements(By.CSS_SELECTOR, "[data-testid='new-project']"), "the first page")[
        0
    ].click()
    until(lambda: page.find_elements(By.ID, "name"), "the dialog")[0].send_keys("Net Loft")
    opening = ".ant-zoom-appear, .ant-zoom-enter"
    until(lambda: not page.find_elements(By.CSS_SELECTOR, opening), "the dialog is at rest")
    (make,) = [b for b in page.find_elements(By.TAG_NAME, "button") if b.text == "Make project"]
    ActionChains(page).double_click(make).perform()
    until(lambda: "/p/net-loft" in page.current_url, "the project opens")
    time.sleep(0.5)
    made = [p.name for p in (empty.data / "projects").iterdir()]
    assert "net-loft" in made
    leave(page)
    empty.kill()
    empty.start()
    page.get(f"{empty.url}/p/net-loft/song")
    until(lambda: "Net Loft" in page.find_element(By.TAG_NAME, "body").text, "it opens after a restart")


def test_a_damaged_project_says_so_on_its_card_and_can_be_deleted(page: Driver, empty: Server) -> None:
    workspace = Workspace(empty.data)
    for name in ("Good", "Bad"):
        workspace.create(name, "24", 320, 180).database.close()
    with sqlite3.connect(empty.data / "projects" / "bad" / "project.db") as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    connection.close()
    page.get(empty.url)
    card = until(lambda: page.find_elements(By.CSS_SELECTOR, "[data-testid='trouble-bad']"), "its card")[0]
    assert "newer version of Zembi" in card.text
    assert page.find_elements(By.CSS_SELECTOR, "[data-testid='open-good']")
    card.find_element(By.TAG_NAME, "button").click()
    until(lambda: page.find_elements(By.CSS_SELECTOR, ".ant-popover button.ant-btn-primary"), "the question")[
        0
    ].click()
    until(lambda: not page.find_elements(By.CSS_SELECTOR, "[data-testid='trouble-bad']"), "it is gone")
    assert workspace.ids() == ["good"]
