"""Every starting rule: built through its page, switched on, and seen to fire at something that is provoked. Clicks and
keystrokes are counted and printed."""

import time
from dataclasses import dataclass, field

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from dromikon.core.rules.starting import STARTING
from tests.browser.conftest import button, one, wait

pytestmark = [pytest.mark.browser, pytest.mark.slow, pytest.mark.lasting]
G = "quillmere-gardens"
#: The most hand movements from an event seen to a rule that works.
AIM = 8
#: It waits for a whole minute, so the others are under way by then.
LAST = "count-anew"
#: Those whose runs are looked at on their pages, too: a scene, a device's message, a test by hand.
SEEN = ("door-forced", "occupancy", "step-expired")


@dataclass(frozen=True)
class Job:
    """How one is built (which chips are pressed, which numbers changed, by their paths) and what is provoked then: a scene, or
    what devices tell; `by_hand`: it is carried out as a test on its page, since nobody can provoke what it is about."""

    chips: tuple[str, ...] = ("Operators",)
    numbers: dict[str, str] = field(default_factory=dict)
    scene: str = ""
    told: tuple[dict, ...] = ()
    by_hand: bool = False


def reading(kind, point, value):
    return {"kind": kind, "point": point, "phase": "reading", "fields": {"value": value}}


BAY_TAKEN, BAY_FREE = ({"kind": "scene.occupied", "point": "jetty-line", "phase": p} for p in ("begin", "end"))
JOBS = {
    "door-forced": Job(("Any door", "Operators"), scene="force-vault"),
    "wicket-call": Job(numbers={"cause.within": "3"}, scene="ring"),
    "unknown-plate": Job(("staff plates", "No hours", "Operators"), scene="unknown-plate"),
    "excluded-person": Job(("excluded persons", "Operators"), scene="excluded-person"),
    "freezer-warm": Job(
        ("Orchid house temperature", "Operators"), {"cause.held": "1"},
        told=(reading("sensor.reading", "orchid-temp", -30), reading("sensor.reading", "orchid-temp", 22)),
    ),
    "water-leak": Job(("Leak sensor", "Shut-off valve", "Operators"), {"cause.seconds": "2"}, scene="spill"),
    "after-hours": Job(
        # How sure a camera is depends on the light; this detector is sure.
        ("Gate line", "No hours", "Operators"),
        told=({"kind": "scene.line_crossed", "point": "gate-line", "phase": "pulse", "fields": {"class": "human", "confidence": 90}},),
    ),
    "hot-region": Job(
        ("Boiler flue", "Operators"),
        told=(reading("scene.temperature", "boiler-flue", 60), reading("scene.temperature", "boiler-flue", 95)),
    ),
    "occupancy": Job(
        ("People in the palm house", "Operators"), {"cause.held": "1"},
        told=(reading("scene.count", "palm-count", 5), reading("scene.count", "palm-count", 150)),
    ),
    "on-battery": Job(numbers={"cause.seconds": "2"}, scene="cut-mains"),
    "camera-lost": Job(numbers={"cause.seconds": "5"}, scene="cut-jetty"),
    "fallen-silent": Job(by_hand=True),
    "step-expired": Job(by_hand=True),
    "count-inside": Job(("Gate line", "Visitors inside"), scene="school-party"),
    "count-full": Job(("Deliveries today", "Operators")),
    "count-anew": Job(("Ends soon", "Visitors inside")),
    "nobody-reached": Job(by_hand=True),
    "help-button": Job(("Help at gate", "Operators")),
    "fire-contact": Job(("Fire panel, palm house", "Operators"), scene="smoke"),
    "bay-occupied": Job(numbers={"cause.seconds": "1"}, told=(BAY_FREE, BAY_TAKEN)),
}  # fmt: skip


class Hand:
    """Clicks and keystrokes of one person, counted."""

    def __init__(self, browser):
        self.browser, self.count = browser, 0

    def click(self, element):
        self.count += 1
        element.click()

    def type(self, element, text):
        self.count += len(text) + 1
        element.send_keys(Keys.CONTROL, "a")
        element.send_keys(text)


@pytest.fixture(scope="module")
def browser(lasting_person):
    return lasting_person("ines")


@pytest.fixture(scope="module")
def built(demo, settled, browser):
    """All of them, built and provoked: the address of each one's page, and how many movements it took."""
    never = {"exceptions": [{"date": "2020-01-01", "spans": ["10:00-11:00"]}]}
    hours = [demo.call("POST", f"/api/v1/hours?site={G}", {"name": "No hours", "document": never})]
    # A detector is offered for what it is known to send.
    demo.tell(BAY_TAKEN)
    time.sleep(1)
    found = {name: build(demo, browser, name, job) for name, job in JOBS.items() if name != LAST}
    for job in JOBS.values():
        if job.scene:
            demo.provoke(job.scene)
        for told in job.told:
            demo.tell(told)
            time.sleep(0.3)
    demo.call("PUT", f"/api/v1/situation/counters/deliveries?site={G}", {"value": 500})
    demo.call("POST", f"/api/v1/buttons/gate-help/press?site={G}")
    end = (int(time.time()) + 80) // 60 * 60
    hours.append(demo.call("POST", f"/api/v1/hours?site={G}", {"name": "Ends soon", "document": until(end)}))
    time.sleep(0.5)
    found[LAST] = build(demo, browser, LAST, JOBS[LAST])
    yield found
    settled.restore(demo)
    for one_of_them in hours:
        demo.call("DELETE", f"/api/v1/hours/{one_of_them['id']}?site={G}")


def until(end):
    """Hours that end at an instant in seconds; minutes are as fine as they are."""
    stamp = lambda at: time.strftime("%Y%m%dT%H%M%SZ", time.gmtime(at))
    lines = ("BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", "BEGIN:VEVENT", "UID:1", f"DTSTAMP:{stamp(end)}",
             f"DTSTART:{stamp(end - 3600)}", f"DTEND:{stamp(end)}", "END:VEVENT", "END:VCALENDAR")  # fmt: skip
    return {"calendars": [{"name": "soon", "text": "\r\n".join(lines)}]}


def build(demo, browser, name, job):
    """From the Rulebook to a rule that is on."""
    hand = Hand(browser)
    browser.get(f"{demo.address}/s/{G}/rulebook/new")
    hand.click(one(browser, f"a[href='?from={name}']"))
    one(browser, "[data-sentence] a")
    for words in job.chips:
        hand.click(wait(browser).until(lambda b, w=words: chip(b, w), f"no chip reads {words}"))
    if job.numbers:
        hand.click(one(browser, "[data-key='cause|open']"))
    for path, number in job.numbers.items():
        hand.type(one(browser, f"[data-key='{path}']"), number)
    wait(browser).until(lambda b: not b.find_elements(By.CSS_SELECTOR, ".finding.error"), f"{name} has errors")
    hand.click(one(browser, ".editor-head .btn:not([disabled]):not(.plain):not(.icon-only)"))
    wait(browser).until(lambda b: "/rulebook/new" not in b.current_url)
    hand.click(one(browser, ".editor-head .switch:not([disabled])"))
    wait(browser).until(decides)
    if job.by_hand:
        carry_out(browser)
    return browser.current_url, hand.count


#: The chip that reads so, or else the first that has the words: one question to the browser, not one a chip.
CHIP = """
const chips = [...document.querySelectorAll(".chip")], words = arguments[0].toLowerCase();
const reads = (chip) => chip.innerText.trim().toLowerCase();
return chips.find((c) => reads(c) === words) || chips.find((c) => reads(c).includes(words)) || false;
"""


def chip(browser, words):
    return browser.execute_script(CHIP, words)


def decides(browser):
    """Whether it was said that the rule is on."""
    return browser.execute_script("return document.querySelector('[data-toasts]').textContent.includes('It decides')")


def carry_out(browser):
    button(browser, "Try it", "[data-testing]").click()
    carry = button(browser, "Carry out as a test", "[data-testing]")
    wait(browser).until(lambda _: carry.is_enabled(), "the event to test with has not come")
    carry.click()
    browser.switch_to.alert.accept()


def test_every_starting_rule_is_built_here():
    assert set(JOBS) == set(STARTING.names())


@pytest.mark.parametrize("name", JOBS)
def test_a_starting_rule_is_built_on_its_page_and_fires(demo, built, browser, name):
    address, count = built[name]
    print(f"\n{name}: {count} clicks and keystrokes from the Rulebook to a rule that is on")
    runs = f"/api/v1/runs?site={G}&rule={address.rsplit('/', 1)[1]}"
    wait(browser, 200).until(lambda _: demo.get(runs), f"{name} has not fired")
    if name in SEEN:
        browser.get(address)
        one(browser, "[data-lately] [data-verdict$=' fired']")


def test_from_an_event_seen_a_rule_takes_few_movements(demo, browser, built):
    demo.tell({"kind": "input.active", "point": "leak", "phase": "begin"})
    hand = Hand(browser)
    browser.get(f"{demo.address}/s/{G}/daybook")
    hand.click(wait(browser).until(lambda b: link_of(b, "Leak sensor")))
    hand.click(button(browser, "Make a rule from this", ".drawer"))
    one(browser, "[data-sentence] a")
    hand.click(wait(browser).until(lambda b: chip(b, "Operators")))
    wait(browser).until(lambda b: not b.find_elements(By.CSS_SELECTOR, ".finding.error"), "it has errors")
    hand.click(one(browser, ".editor-head .btn:not([disabled]):not(.plain):not(.icon-only)"))
    wait(browser).until(lambda b: "/rulebook/new" not in b.current_url)
    hand.click(one(browser, ".editor-head .switch:not([disabled])"))
    wait(browser).until(decides)
    print(f"\nfrom an event seen: {hand.count} clicks and keystrokes")
    assert hand.count <= AIM
    demo.tell({"kind": "input.active", "point": "leak", "phase": "end"})
    demo.tell({"kind": "input.active", "point": "leak", "phase": "begin"})
    wait(browser, 30).until(lambda b: b.find_elements(By.CSS_SELECTOR, "[data-lately] [data-verdict$=' fired']"))
    demo.tell({"kind": "input.active", "point": "leak", "phase": "end"})


def link_of(browser, point):
    """The trace of the newest event at a point."""
    rows = browser.find_elements(By.CSS_SELECTOR, "tr[data-event]")
    found = next((r for r in rows if point in r.text), None)
    return found.find_element(By.CSS_SELECTOR, "a[data-sheet]") if found else False
