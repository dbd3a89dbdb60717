"""What actions do to the world outside the core. One more action is one file here and one line below.

Inside effects add rows to the book of the running transaction. Outside effects name the lane of a step, and deliver it
later from the outbox.
"""

from dromikon.core.registry import Registry
from dromikon.engine.effects.alarm import AlarmEffect
from dromikon.engine.effects.announce import AnnounceEffect
from dromikon.engine.effects.base import InsideEffect, OutsideEffect
from dromikon.engine.effects.bookmark import BookmarkEffect
from dromikon.engine.effects.chat import ChatEffect
from dromikon.engine.effects.clip import ClipEffect
from dromikon.engine.effects.door import DoorEffect
from dromikon.engine.effects.evidence import EvidenceEffect
from dromikon.engine.effects.following import CounterEffect, DeriveEffect, FollowingEffect, ModeEffect
from dromikon.engine.effects.gateway import CallEffect, PushEffect, TextEffect
from dromikon.engine.effects.http import HttpEffect
from dromikon.engine.effects.line import LineEffect
from dromikon.engine.effects.mail import MailEffect
from dromikon.engine.effects.notice import NoticeEffect
from dromikon.engine.effects.popup import PopupEffect
from dromikon.engine.effects.ptz import PtzEffect
from dromikon.engine.effects.record import RecordEffect
from dromikon.engine.effects.relay import RelayEffect
from dromikon.engine.effects.script import ScriptEffect
from dromikon.engine.effects.signal import SignalEffect
from dromikon.engine.effects.snapshot import SnapshotEffect
from dromikon.engine.effects.snmp import SnmpEffect
from dromikon.engine.effects.summon import SummonEffect
from dromikon.engine.effects.webhook import WebhookEffect

EFFECTS: Registry[InsideEffect | OutsideEffect] = Registry("effect")
EFFECTS.add("alarm", AlarmEffect())
EFFECTS.add("bookmark", BookmarkEffect())
EFFECTS.add("popup", PopupEffect())
EFFECTS.add("clip", ClipEffect())
EFFECTS.add("relay", RelayEffect())
EFFECTS.add("signal", SignalEffect())
EFFECTS.add("ptz", PtzEffect())
EFFECTS.add("door", DoorEffect())
EFFECTS.add("announce", AnnounceEffect())
EFFECTS.add("webhook", WebhookEffect())
EFFECTS.add("snmp", SnmpEffect())
EFFECTS.add("notice", NoticeEffect())
EFFECTS.add("line", LineEffect())
EFFECTS.add("record", RecordEffect())
EFFECTS.add("snapshot", SnapshotEffect())
EFFECTS.add("text", TextEffect())
EFFECTS.add("mail", MailEffect())
EFFECTS.add("push", PushEffect())
EFFECTS.add("call", CallEffect())
EFFECTS.add("chat", ChatEffect())
EFFECTS.add("summon", SummonEffect())
EFFECTS.add("http", HttpEffect())
EFFECTS.add("script", ScriptEffect())
EFFECTS.add("mode", ModeEffect())
EFFECTS.add("counter", CounterEffect())
EFFECTS.add("derive", DeriveEffect())
EFFECTS.add("evidence", EvidenceEffect())

__all__ = ["EFFECTS", "FollowingEffect", "InsideEffect", "OutsideEffect"]
