"""The actions a step can take. Register one more with one line below."""

from dromikon.core.registry import Registry
from dromikon.core.rules.actions.alarm import AlarmAction
from dromikon.core.rules.actions.base import Action, Delivery, Firing, Order
from dromikon.core.rules.actions.bookmark import BookmarkAction
from dromikon.core.rules.actions.popup import PopupAction
from dromikon.core.rules.actions.relay import RelayAction
from dromikon.core.rules.actions.webhook import WebhookAction

ACTIONS: Registry[type[Action]] = Registry("action")
ACTIONS.add("alarm", AlarmAction)
ACTIONS.add("bookmark", BookmarkAction)
ACTIONS.add("popup", PopupAction)
ACTIONS.add("relay", RelayAction)
ACTIONS.add("webhook", WebhookAction)

__all__ = ["ACTIONS", "Action", "Delivery", "Firing", "Order"]
