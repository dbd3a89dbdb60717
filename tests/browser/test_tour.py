"""The way of a newcomer, through the real interface: provoke, answer, find, play; build a rule; two operators."""

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import button, one, wait
from tests.browser.settling import answer_what_waits

pytestmark = [pytest.mark.browser, pytest.mark.slow]
G = "/s/quillmere-gardens"


def js(browser, code):
    return browser.execute_script(f"return {code}")


def rows(browser, selector):
    return browser.find_elements(By.CSS_SELECTOR, selector)


def pictures_a_second(browser):
    words = browser.find_element(By.CSS_SELECTOR, "[data-rate]").text
    return float(words.split()[0]) if "pictures/s" in words else 0.0


def rehearsed(browser):
    found = rows(browser, ".past p strong.figures")
    return found[0].text if found else ""


def open_alarms(browser):
    return rows(browser, "[data-alarm][data-open='1']")


def test_from_a_walk_on_the_jetty_to_the_played_bookmark(demo, person):
    answer_what_waits(demo)
    operator, second = person("oskar"), person("opal")
    wait(operator).until(lambda b: "/desk" in b.current_url)
    assert "Nothing needs you" in operator.page_source
    wait(operator).until(lambda b: js(b, "document.querySelector('[data-pulse]').classList.contains('alive')"))

    # Cause it from the Provoke page, as the page says.
    provoker = person("dara")
    provoker.get(demo.control)
    button(provoker, "Provoke", "form[action='/provoke/cross-jetty']").click()
    assert "Walk across the jetty line" in one(provoker, ".done").text

    # The alarm comes by itself, with place, instruction, pictures from before and from now.
    alarm = wait(operator, 30).until(lambda b: next((a for a in open_alarms(b) if "on the jetty" in a.text), False))
    assert (
        "Somebody on the jetty" in alarm.text
        and "Boathouse and Lake" in alarm.text
        and "Look whether anybody is in the water" in alarm.text
    )
    assert [f.text for f in alarm.find_elements(By.CSS_SELECTOR, ".strip figcaption")] == [
        "−10 s",
        "−6 s",
        "−3 s",
        "0",
        "who",
        "+3 s",
        "+6 s",
        "now",
    ]
    loaded = "[...document.querySelectorAll('[data-alarm] .strip img')].filter(i => i.complete && i.naturalWidth > 100).length"
    wait(operator).until(lambda b: js(b, loaded) == 6)
    painted = (
        "(c => c.getContext('2d').getImageData(100, 60, 1, 1).data[3])(document.querySelector('[data-alarm] canvas'))"
    )
    wait(operator).until(lambda b: js(b, painted) == 255)
    # Others may be put up there still, by what was provoked before.
    put_up = lambda b: [w.text for w in rows(b, ".cell.put-up .why")]
    wait(operator).until(lambda b: any(words.startswith("Somebody on the closed jetty") for words in put_up(b)))
    one(second, "[data-alarm][data-open='1']")

    # Without the note that the rule asks for, it says so at the note.
    button(operator, "Acknowledge").click()
    wait(operator).until(lambda b: "needs a note" in one(b, "[data-problem='note']").text)

    # With the keyboard: n, words, Tab, tags, Ctrl+Enter.
    operator.switch_to.active_element.send_keys(Keys.ESCAPE)
    ActionChains(operator).send_keys("n").pause(0.2).send_keys("A walker, called back.").send_keys(Keys.TAB).send_keys(
        "walker, stray"
    ).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()
    wait(operator).until(lambda b: not open_alarms(b))

    # The second sees who has answered, and cannot answer again.
    wait(second).until(lambda b: "Oskar Lindwater answered" in b.page_source)
    wait(second).until(lambda b: not rows(b, "[data-answer]"))

    for other in (second, provoker):
        other.get("about:blank")

    # The bookmark carries the words and is found by tag and by text; it plays from before the event.
    operator.get(f"{demo.address}{G}/archive?tag=walker")
    found = one(operator, "[data-bookmark]")
    assert "A walker, called back." in found.text and "#jetty" in found.text and "#stray" in found.text
    assert len(rows(operator, "[data-bookmark]")) == 1, "no second bookmark"
    search = one(operator, "form[role=search] input[name=q]", 5)
    search.send_keys("nonsense" + Keys.ENTER)
    assert "No bookmark has these words" in one(operator, ".empty").text
    operator.get(f"{demo.address}{G}/archive?q=walker+called")
    one(operator, "[data-bookmark]").click()
    # Every two minutes the stand-ins draw the light that is coming, which takes them a while.
    wait(operator, 90).until(lambda b: pictures_a_second(b) >= 8, "eight pictures a second or better")
    before = js(operator, "document.querySelector('.page-head strong').textContent")
    ActionChains(operator).send_keys(" ").perform()
    wait(operator).until(lambda b: button(b, "Play"))
    assert js(operator, "document.querySelector('.page-head strong').textContent") >= before


def test_a_rule_is_made_from_an_event_just_seen(demo, person):
    # At night nobody passes the gate by themselves.
    demo.provoke("school-party")
    integrator = person("ines")
    integrator.get(f"{demo.address}{G}/daybook")
    row = wait(integrator, 90).until(
        lambda b: next((r for r in rows(b, "[data-recent] tr") if "Gate line" in r.text), False)
    )
    row.find_element(By.CSS_SELECTOR, "a").click()
    assert "Visitor gate passed by night" in one(integrator, ".drawer").text
    assert "open=event-" in integrator.current_url, "it can be linked to"
    button(integrator, "Make a rule from this", ".drawer").click()

    sentence = one(integrator, "[data-sentence]")
    wait(integrator).until(lambda b: "When Gate line is crossed" in sentence.text)
    name = one(integrator, "input[aria-label='Name']")
    name.clear()
    name.send_keys("Visitors by the gate")
    # A number moves the sentence and the time plan.
    bar = "Number(document.querySelector('[data-track=\"response.1\"] .act rect')?.getAttribute('width') || 0)"
    one(integrator, "[data-key='response.1|open']").click()
    wait(integrator).until(lambda b: js(b, bar) > 0)
    before = js(integrator, bar)
    after = one(integrator, "[data-field='response.1.before'] input")
    after.clear()
    after.send_keys("45")
    wait(integrator).until(lambda b: "from 45 s before" in sentence.text and js(b, bar) != before)

    # The past week is rehearsed as numbers move.
    wait(integrator).until(lambda b: "run" in rehearsed(b))
    first = rehearsed(integrator)
    one(integrator, "[data-key='provided|open']").click()
    number = one(integrator, "#part-provided input[type=number]")
    number.clear()
    number.send_keys("99")
    wait(integrator).until(lambda b: rehearsed(b) not in ("", first))
    assert int(rehearsed(integrator).split()[0]) < int(first.split()[0])
    assert "confidence is at least 99" in js(integrator, "document.querySelector('[data-funnel]').textContent")

    # A check names what is missing, and mends it with one click.
    one(integrator, "[data-key='response.0|open']").click()
    while chosen := rows(integrator, "#part-response-0 .chip[aria-pressed='true']"):
        chosen[0].click()
    wait(integrator).until(lambda b: "Nobody receives the alarm" in b.page_source)
    button(integrator, "Send it to Duty managers").click()
    wait(integrator).until(lambda b: one(b, ".editor-head .state.good").text == "checks clean")

    # Undo and redo.
    operator_chip = (
        "[...document.querySelectorAll('#part-response-0 .chip[aria-pressed=true]')].map(c => c.textContent).join()"
    )
    assert js(integrator, operator_chip) == "Duty managers"
    integrator.execute_script("document.activeElement.blur(); window.scrollTo(0, 0)")
    ActionChains(integrator).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    wait(integrator).until(lambda b: js(b, operator_chip) == "")
    ActionChains(integrator).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("z").key_up(Keys.SHIFT).key_up(
        Keys.CONTROL
    ).perform()
    wait(integrator).until(lambda b: js(b, operator_chip) == "Duty managers")

    ActionChains(integrator).key_down(Keys.CONTROL).send_keys("s").key_up(Keys.CONTROL).perform()
    wait(integrator).until(lambda b: "/rulebook/new" not in b.current_url)
    one(integrator, ".editor-head .switch").click()
    wait(integrator).until(lambda b: "On. It decides from the next event" in b.page_source)
    rules = {r["name"]: r for r in demo.get("/api/v1/rules?site=quillmere-gardens")}
    assert rules["Visitors by the gate"]["enabled"] is True


def test_the_document_view_and_the_parts_are_the_same_rule(demo, person):
    integrator = person("ines")
    integrator.get(f"{demo.address}{G}/rulebook/jetty-geese")
    button(integrator, "Document").click()
    text = one(integrator, "textarea.mono")
    wait(integrator).until(lambda b: "id: jetty-line" in text.get_attribute("value"))
    changed = text.get_attribute("value").replace("value: animal", "value: bicycle")
    integrator.execute_script(
        "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        text,
        changed,
    )
    wait(integrator).until(lambda b: "class is bicycle" in one(b, "[data-sentence]").text)
    integrator.execute_script(
        "arguments[0].value = '{'; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))", text
    )
    wait(integrator).until(lambda b: "Line 1" in one(b, ".line-problems").text)
    assert not one(integrator, ".editor-head .btn.own").is_enabled()
    integrator.execute_script(
        "window.onbeforeunload = null; arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        text,
        changed.replace("value: bicycle", "value: animal"),
    )
    wait(integrator).until(lambda b: "class is animal" in one(b, "[data-sentence]").text)
    one(integrator, "[data-sentence] a[data-part='hold_off']").click()
    wait(integrator).until(lambda b: one(b, "#part-hold_off").is_displayed())
    integrator.execute_script("document.querySelector('[x-data=editor]')._x_dataStack[0].dirty = false")


def test_a_desk_button_raises_a_critical_alarm_in_six_tabs_of_one_browser(demo, person):
    operator = person("oskar")
    operator.get(f"{demo.address}{G}/desk")
    for _ in range(5):
        operator.switch_to.new_window("tab")
        operator.get(f"{demo.address}{G}/desk")
    button(operator, "Help at gate").click()
    for handle in operator.window_handles:
        operator.switch_to.window(handle)
        wait(operator).until(lambda b: any("Help wanted at the gate" in a.text for a in open_alarms(b)))
    alarm = next(a for a in open_alarms(operator) if "Help wanted" in a.text)
    alarm.find_element(By.CSS_SELECTOR, "textarea").send_keys("Ramp put down.")
    alarm.find_element(By.CSS_SELECTOR, "form[data-answer] button").click()
    for handle in operator.window_handles:
        operator.switch_to.window(handle)
        wait(operator).until(lambda b: not [a for a in open_alarms(b) if "Help wanted" in a.text])


def test_a_camera_cut_off_shows_in_sources_and_comes_back(demo, person):
    integrator = person("ines")
    integrator.get(f"{demo.address}{G}/sources")
    demo.provoke("cut-jetty")
    wait(integrator, 60).until(lambda b: "not answering" in one(b, "[data-device='cam-jetty']").text)
    assert "Check power and cable" in one(integrator, "[data-device='cam-jetty'] .problem").text
    wait(integrator, 90).until(lambda b: "online" in one(b, "[data-device='cam-jetty']").text)


def test_a_wrong_device_address_is_refused_at_its_place(demo, person):
    integrator = person("ines")
    integrator.get(f"{demo.address}{G}/sources")
    button(integrator, "Add a device").click()
    one(integrator, "#d-name").send_keys("Wrong")
    one(integrator, "#d-address").send_keys("gopher://x")
    button(integrator, "Save", ".drawer").click()
    wait(integrator).until(lambda b: "An address such as" in one(b, "[data-problem='address']").text)
    ActionChains(integrator).send_keys(Keys.ESCAPE).send_keys(Keys.ESCAPE).perform()
    wait(integrator).until(lambda b: not rows(b, ".drawer"))


def test_keys_lead_everywhere(demo, person):
    operator = person("oskar")
    wait(operator).until(lambda b: "/desk" in b.current_url)
    for key, page in (("b", "daybook"), ("r", "rulebook"), ("s", "sources"), ("a", "archive"), ("d", "desk")):
        one(operator, "main")
        ActionChains(operator).send_keys("g").send_keys(key).perform()
        wait(operator).until(lambda b, page=page: b.current_url.split("?")[0].endswith(page))
    one(operator, "main")
    ActionChains(operator).send_keys("?").perform()
    assert "Ctrl" in one(operator, "dialog.keys").text
    ActionChains(operator).send_keys(Keys.ESCAPE).send_keys("/").perform()
    assert operator.switch_to.active_element.get_attribute("name") == "words"


def test_a_starting_rule_asks_for_what_is_not_certain_and_is_saved_once(demo, person):
    integrator = person("ines")
    integrator.get(f"{demo.address}{G}/rulebook/new?from=water-leak")
    asked = one(integrator, "section[aria-labelledby='asking-title']")
    labels = [e.text for e in asked.find_elements(By.CSS_SELECTOR, ".label-text")]
    assert labels == ["which leak contacts", "the shut-off valve", "who sees it"], "source first, receiver last"
    for words in ("Leak sensor", "Storm light", "Operators"):
        next(c for c in asked.find_elements(By.CSS_SELECTOR, ".chip") if c.text == words).click()
    sentence = one(integrator, "[data-sentence]")
    wait(integrator).until(lambda b: "When Leak sensor is on" in sentence.text and "for Operators" in sentence.text)
    save = one(integrator, ".editor-head .btn.own")
    wait(integrator).until(lambda b: save.is_enabled())
    ActionChains(integrator).double_click(save).perform()
    wait(integrator).until(lambda b: "/rulebook/new" not in b.current_url)
    named = [r for r in demo.get("/api/v1/rules?site=quillmere-gardens") if r["name"] == "Water leak"]
    assert len(named) == 1


def test_a_repeat_that_joins_leaves_words_tags_and_focus_alone(demo, person):
    operator = person("oskar")
    operator.get(f"{demo.address}{G}/desk")
    demo.tell({"kind": "door.forced", "point": "vault-door", "phase": "pulse", "fields": {}})
    card = wait(operator, 30).until(lambda b: next((a for a in open_alarms(b) if "Forced" in a.text), False))
    number = card.get_attribute("data-alarm")
    note = one(operator, f"#note-{number}")
    one(operator, f"#tags-{number}").send_keys("drill")
    note.send_keys("A locksmith, ")
    demo.tell({"kind": "door.forced", "point": "vault-door", "phase": "pulse", "fields": {}})
    wait(operator, 30).until(lambda b: "× 2" in one(b, f"[data-alarm='{number}'] header").text)
    ActionChains(operator).send_keys("expected.").perform()
    assert one(operator, f"#note-{number}").get_attribute("value") == "A locksmith, expected."
    assert one(operator, f"#tags-{number}").get_attribute("value") == "drill"
    ActionChains(operator).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()
    wait(operator).until(lambda b: "kept with the alarm" in b.page_source)
    operator.get(f"{demo.address}{G}/archive?q=locksmith")
    assert "A locksmith, expected." in one(operator, f"[data-found-alarm='{number}']").text
