"""The actions a step can take. Register one more with one line below."""

from dromikon.core.registry import Registry
from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.actions.announce import AnnounceAction
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.bookmark import BookmarkAction
from dromikon.core.rules.actions.call import CallAction
from dromikon.core.rules.actions.chat import ChatAction
from dromikon.core.rules.actions.clip import ClipAction
from dromikon.core.rules.actions.counter import CounterAction
from dromikon.core.rules.actions.derive import DeriveAction
from dromikon.core.rules.actions.door import DoorAction
from dromikon.core.rules.actions.http import HttpAction
from dromikon.core.rules.actions.line import LineAction
from dromikon.core.rules.actions.mail import MailAction
from dromikon.core.rules.actions.mode import ModeAction
from dromikon.core.rules.actions.notice import NoticeAction
from dromikon.core.rules.actions.popup import PopupAction
from dromikon.core.rules.actions.ptz import PtzAction
from dromikon.core.rules.actions.push import PushAction
from dromikon.core.rules.actions.record import RecordAction
from dromikon.core.rules.actions.relay import RelayAction
from dromikon.core.rules.actions.script import ScriptAction
from dromikon.core.rules.actions.signal import SignalAction
from dromikon.core.rules.actions.snapshot import SnapshotAction
from dromikon.core.rules.actions.snmp import SnmpAction
from dromikon.core.rules.actions.summon import SummonAction
from dromikon.core.rules.actions.text import TextAction
from dromikon.core.rules.actions.webhook import WebhookAction

ACTIONS: Registry[type[Action]] = Registry("action")
ACTIONS.add("alarm", AlarmAction)
ACTIONS.add("bookmark", BookmarkAction)
ACTIONS.add("popup", PopupAction)
ACTIONS.add("notice", NoticeAction)
ACTIONS.add("record", RecordAction)
ACTIONS.add("snapshot", SnapshotAction)
ACTIONS.add("ptz", PtzAction)
ACTIONS.add("clip", ClipAction)
ACTIONS.add("relay", RelayAction)
ACTIONS.add("signal", SignalAction)
ACTIONS.add("door", DoorAction)
ACTIONS.add("announce", AnnounceAction)
ACTIONS.add("text", TextAction)
ACTIONS.add("mail", MailAction)
ACTIONS.add("push", PushAction)
ACTIONS.add("call", CallAction)
ACTIONS.add("chat", ChatAction)
ACTIONS.add("summon", SummonAction)
ACTIONS.add("webhook", WebhookAction)
ACTIONS.add("snmp", SnmpAction)
ACTIONS.add("http", HttpAction)
ACTIONS.add("script", ScriptAction)
ACTIONS.add("mode", ModeAction)
ACTIONS.add("counter", CounterAction)
ACTIONS.add("derive", DeriveAction)
ACTIONS.add("line", LineAction)

__all__ = ["ACTIONS", "Action", "Delivery", "Firing", "Order"]
