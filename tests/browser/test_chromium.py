"""The driver that the page's tests rest on, on a page that draws itself anew between any two commands."""

from urllib.parse import quote

import pytest
from selenium.common.exceptions import StaleElementReferenceException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from tests.browser.chromium import Driver

RESTLESS = """<div id=kept><button>0</button></div><div id=veil style="position:fixed;inset:0"></div><script>
  let n = 0; window.pressed = 0
  const draw = () => { document.getElementById('kept').innerHTML = `<button>${++n}</button>` }
  document.addEventListener('click', () => window.pressed++)
</script>"""


@pytest.fixture
def restless(page: Driver) -> Driver:
    page.get("data:text/html," + quote(RESTLESS))
    return page


def test_what_was_drawn_anew_is_found_again(restless: Driver) -> None:
    button = restless.find_element(By.ID, "kept").find_element(By.TAG_NAME, "button")
    assert button.text == "0"
    restless.execute_script("draw(); document.getElementById('veil').remove()")
    assert button.text == "1"
    restless.execute_script("draw()")
    assert restless.execute_script("return arguments[0].textContent", button) == "2"
    restless.execute_script("draw()")
    ActionChains(restless).move_to_element(button).click().perform()
    restless.execute_script("draw()")
    button.click()
    assert restless.execute_script("return pressed") == 2


def test_what_is_gone_is_said_to_be_gone(restless: Driver) -> None:
    button = restless.find_element(By.TAG_NAME, "button")
    restless.execute_script("document.getElementById('kept').remove()")
    with pytest.raises(StaleElementReferenceException):
        button.click()


def test_a_click_waits_for_what_lies_over_it(restless: Driver) -> None:
    restless.execute_script("setTimeout(() => document.getElementById('veil').remove(), 300)")
    restless.find_element(By.TAG_NAME, "button").click()
    assert restless.execute_script("return pressed") == 1
