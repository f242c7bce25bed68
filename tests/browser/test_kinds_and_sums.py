"""Houses of other books and the quick sums in a browser: drawn without clipping, reachable, answering."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from gumboot.core.standing import STATION_IDS
from tests.browser.conftest import Walker

Walk = Callable[..., Walker]
WORDS_INSIDE = """() => [...document.querySelectorAll('svg.drawing')].flatMap(svg => {
  const box = svg.viewBox.baseVal;
  return [...svg.querySelectorAll('text')].filter(t => t.textContent.trim()).filter(t => {
    const b = t.getBBox();
    return !t.getAttribute('transform') && (b.x < -1 || b.x + b.width > box.width + 1 || b.y + b.height > box.height + 2);
  }).map(t => svg.getAttribute('aria-label').slice(0, 20) + ': ' + t.textContent);
})"""
OVERLAPS = """() => {
  const svg = document.querySelector('svg.drawing');
  const texts = [...svg.querySelectorAll('text')].filter(t => t.textContent.trim()).map(t => [t.textContent, t.getBBox()]);
  const out = [];
  for (let i = 0; i < texts.length; i++) for (let j = i + 1; j < texts.length; j++) {
    const [a, b] = [texts[i][1], texts[j][1]];
    const w = Math.min(a.x + a.width, b.x + b.width) - Math.max(a.x, b.x), h = Math.min(a.y + a.height, b.y + b.height) - Math.max(a.y, b.y);
    if (w > 2 && h > 5) out.push(texts[i][0] + ' / ' + texts[j][0]);
  }
  return out;
}"""
KINDS = (
    "d1-saltmarsh",
    "d2-schoolhouse",
    "d3-lockkeeper",
    "d4-lookout",
    "k02-weaver",
    "k03-tollhouse",
    "k05-homestead",
    "k07-ridge",
    "k09-terrace",
    "k11-millhouse",
    "k12-orchard-flat",
    "k13-printworks",
)


@pytest.mark.parametrize("house", ["d2-schoolhouse", "d3-lockkeeper", "d4-lookout"])
def test_every_station_of_the_other_books(walk: Walk, house: str) -> None:
    w = walk("petra", house)
    for station in STATION_IDS:
        w.go(station)
        assert w.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth"), f"{station} is wider than the screen"
        assert w.page.evaluate(WORDS_INSIDE) == [], station
    w.go("circuits")
    w.accessible()


def test_no_words_overlap_on_any_single_line(walk: Walk) -> None:
    w = walk("petra")
    for house in KINDS:
        w.job = house
        w.go("circuits")
        assert w.page.evaluate(OVERLAPS) == [], house


def test_the_other_books_on_a_phone(walk: Walk) -> None:
    w = walk("ivo", "d2-schoolhouse", width=390, height=844)
    for station in ("survey", "circuits", "loads", "strings", "bank", "wall"):
        w.go(station)
        assert w.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth"), f"{station} is wider than the phone"


def test_who_is_led_to_a_field_that_is_folded_away_finds_it_open(walk: Walk) -> None:
    w = walk("petra", "d1-saltmarsh")
    w.go("survey#f-things-main-board-title")
    field = w.page.locator("#f-things-main-board-title")
    w.page.wait_for_function("() => document.activeElement.id === 'f-things-main-board-title'")
    assert field.is_visible()
    # The same from a link on the page itself.
    assert not w.page.locator("#f-things-sub-board-title").is_visible()
    w.page.evaluate("() => { location.hash = '#f-things-sub-board-title'; }")
    w.page.wait_for_function("() => document.activeElement.id === 'f-things-sub-board-title'")
    assert w.page.locator("#f-things-sub-board-title").is_visible()


def test_a_residual_device_taken_out_on_the_page_is_a_stop(walk: Walk) -> None:
    w = walk("petra", "d3-lockkeeper")
    w.go("circuits")
    field = "#f-runs-backup-residual_ma"
    w.page.fill(field, "")
    w.redraw(lambda: w.page.press(field, "Tab"))
    aside = w.page.inner_text("aside")
    assert "RCD-MISSING" in aside
    assert "ISLAND-SLOW" in aside
    w.page.evaluate("() => document.activeElement.blur()")
    w.redraw(lambda: w.page.keyboard.press("z"))
    assert "RCD-MISSING" not in w.page.inner_text("aside")


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844)])
def test_a_quick_sum(walk: Walk, width: int, height: int) -> None:
    w = walk("ivo", width=width, height=height)
    w.page.goto(f"{w.server}/")
    w.page.click("text=quick sums")
    w.page.click("text=BS 7671")
    w.page.fill("#q-current", "30 A")
    w.page.fill("#q-ambient", "86 F")
    w.page.fill("#q-device", "40")
    w.page.press("#q-device", "Enter")
    w.page.wait_for_selector(".worked")
    assert "6 mm²" in w.page.inner_text(".big")
    assert "IEC 60364-5-52" in w.page.inner_text(".found")
    assert w.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth")
    w.accessible()
    w.page.fill("#q-current", "30 V")
    w.page.press("#q-current", "Enter")
    w.page.wait_for_selector(".problem")
    assert "wrong kind of unit" in w.page.inner_text(".problem")
    assert w.page.input_value("#q-current") == "30 V"


def test_a_quick_sum_answers_while_it_is_typed_and_is_remembered(walk: Walk) -> None:
    w = walk("ivo", width=390, height=844)
    w.page.goto(f"{w.server}/sums/ampacity")
    w.page.fill("#q-ambient", "30 C")
    w.page.wait_for_selector("#found .waits")
    w.page.fill("#q-size", "6 AWG")
    w.page.wait_for_selector("#found .big")
    assert w.page.inner_text("#found .big").startswith("52 A")
    w.page.wait_for_selector(".lately li")
    assert "size=6+AWG" in w.page.url
    # What another tab asked meanwhile stays in the list, and another book takes along what is typed but sizes of its own.
    w.page.evaluate("""() => { const old = JSON.parse(localStorage.getItem('gumboot-sums'));
        localStorage.setItem('gumboot-sums', JSON.stringify([{title: 'Torque', answer: '4 N m', href: '/sums/torque?x=1'}, ...old])); }""")
    w.page.fill("#q-size", "4 AWG")
    w.page.wait_for_function("() => document.querySelectorAll('.lately li').length >= 2")
    assert "4 N m" in w.page.inner_text(".lately")
    w.page.click(".books a:nth-child(2)")
    w.page.wait_for_function("() => document.querySelector('#q-ambient').value === '30 C' && !location.search.includes('nec-2023')")
    w.page.evaluate("() => localStorage.clear()")
    w.page.goto(f"{w.server}/sums/ampacity?ambient=30+C&size=6+AWG")
    # The address carries the question, and so does the list on another page.
    w.page.goto(f"{w.server}/sums/torque")
    w.page.click(".lately a")
    w.page.wait_for_selector("#found .big")
    assert (w.page.input_value("#q-size"), w.page.inner_text("#found .big")[:4]) == ("6 AWG", "52 A")
    assert w.page.locator(".lately li").count() == 1


def test_the_rule_reference(walk: Walk) -> None:
    w = walk("lena")
    w.page.goto(f"{w.server}/rules")
    assert "LOOP-SLOW" in w.page.inner_text("main")
    assert w.page.evaluate("() => document.documentElement.scrollWidth <= window.innerWidth")
    w.accessible()
