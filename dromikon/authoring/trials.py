"""Trial calls: one outside call of a rule is sent before it matters."""

from dromikon.authoring.known import forget
from dromikon.clock import now_ms
from dromikon.core.events import Event, Phase
from dromikon.core.rules.actions import Firing
from dromikon.core.rules.document import Problem, RuleDocument
from dromikon.daybook.trial import TEST, put_trial
from dromikon.facts import names_of
from dromikon.people.access import Access
from dromikon.people.roles import May
from dromikon.refusals import Refused


def try_call(access: Access, document: RuleDocument, step: int) -> str:
    """Send one outside call of a rule as a test, whatever its cause. Returns the run under which its outcome is found.
    Raises Refused."""
    access.need(May.EDIT_RULES)
    if step >= len(document.response) or document.response[step].do not in ("http", "webhook"):
        raise Refused([Problem(path=f"response.{step}", message="Only HTTP calls and webhooks can be sent as a test.")])
    forget(access.site.id)
    at = now_ms()
    event = Event(0, document.cause.event_kind(), "", Phase.PULSE, at, at, at)
    action, run = document.response[step], f"{TEST}{at}"
    for order in action.orders(Firing(document.name, event, names_of(access.site))):
        put_trial(access.site.id, run, action.do, order, action.carried, at, step)
    return run
