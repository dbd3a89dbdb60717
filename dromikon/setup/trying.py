"""Tests of what is set up: a destination, a person's telephone is tried before it matters."""

from collections.abc import Callable

from dromikon.clock import now_ms
from dromikon.core.events import Event, Phase
from dromikon.core.facts import Facts
from dromikon.core.kinds import CLOCK
from dromikon.core.rules.actions import Action, Firing, Order
from dromikon.core.rules.actions.call import CallAction
from dromikon.core.rules.actions.chat import ChatAction
from dromikon.core.rules.actions.clip import ClipAction
from dromikon.core.rules.actions.destinations import DESTINATION
from dromikon.core.rules.actions.http import HttpAction
from dromikon.core.rules.actions.mail import MailAction
from dromikon.core.rules.actions.push import PushAction
from dromikon.core.rules.actions.snmp import SnmpAction
from dromikon.core.rules.actions.text import TextAction
from dromikon.core.rules.parts import Ref
from dromikon.daybook.trial import TEST, put_trial
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.setup.sort import refuse
from dromikon.sites.models import Destination


def try_destination(access: Access, id: str) -> str:
    """Send a test to a destination. Returns the run under which its outcome is found. Raises Refused, PermissionDenied."""
    access.need(May.SET_UP)
    facts, at = names_of(access.site), now_ms()
    known = facts.destination_by_id.get(id)
    if known is None:
        raise refuse("id", "There is no such destination any more.")
    ref = Ref(id=id, name=known.name)
    action = _TESTS[known.sort](ref)
    if isinstance(action, ClipAction):
        name = f"Dromikon test {at}.txt"
        orders = [Order(f"{DESTINATION}{id}", {"camera": "", "start": at, "end": at, "name": name})]
    elif isinstance(action, HttpAction):
        url = Destination.objects.get(id=id).settings["url"]
        orders = HttpAction(method="GET", url=url, login=ref).orders(firing_of_a_test(facts, at))
    else:
        orders = action.orders(firing_of_a_test(facts, at))
    run = f"{TEST}{at}"
    for order in orders:
        put_trial(access.site.id, run, action.do, order, action.carried, at)
    return run


def try_person(access: Access, id: str) -> str:
    """Send somebody a test in each way in which they can be reached, whatever the hour. Returns its run. Raises Refused,
    PermissionDenied."""
    access.need(May.SET_UP_PEOPLE)
    facts, at = names_of(access.site), now_ms()
    known = facts.member_by_id.get(id)
    ways = [action for action in _WAYS if known is not None and known.has(action.way)]
    if not ways:
        raise refuse("id", "They have no number, and no address for mail, push or chat messages.")
    run, who = f"{TEST}{at}", (Ref(id=id),)
    firing = firing_of_a_test(facts.model_copy(update={"hours": ()}), at)
    for i, action in enumerate(ways):
        for order in action.model_copy(update={"persons": who, "urgent": True}).orders(firing):
            put_trial(access.site.id, run, action.do, order, action.carried, at, i)
    return run


TEST_TEXT = "Dromikon can reach you here. This is a test."
_WAYS = (
    TextAction(text=TEST_TEXT), PushAction(title="A test", text=TEST_TEXT), CallAction(text=TEST_TEXT),
    MailAction(subject="A test of Dromikon", text=TEST_TEXT, moments=()), ChatAction(text=TEST_TEXT),
)  # fmt: skip
_TESTS: dict[str, Callable[[Ref], Action]] = {
    "chat": lambda ref: ChatAction(room=ref, text=TEST_TEXT),
    "snmp": lambda ref: SnmpAction(manager=ref, text=TEST_TEXT, severity="information"),
    "login": lambda ref: HttpAction(method="GET", url="http://example.org/", login=ref),
    "folder": lambda ref: ClipAction(where=ref),
    "sftp": lambda ref: ClipAction(where=ref),
}


def firing_of_a_test(facts: Facts, at: int) -> Firing:
    return Firing("A test", Event(0, CLOCK, "", Phase.PULSE, at, at, at, None, {}), facts, at=at)
