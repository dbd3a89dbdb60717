"""How stored messages become events, by the sort of message. Register one more with one line below."""

from dromikon.core.registry import Registry
from dromikon.engine.adapters.base import Adapter
from dromikon.engine.adapters.cloudevent import CloudEventAdapter
from dromikon.engine.adapters.http import HttpAdapter
from dromikon.engine.adapters.modbus import ModbusAdapter
from dromikon.engine.adapters.mqtt import MqttAdapter
from dromikon.engine.adapters.onvif import OnvifAdapter
from dromikon.engine.adapters.scene import SceneAdapter
from dromikon.engine.adapters.session import CatalogueAdapter, SessionAdapter
from dromikon.engine.adapters.snmp import SnmpAdapter

ADAPTERS: Registry[Adapter] = Registry("adapter")
ADAPTERS.add("http", HttpAdapter())
ADAPTERS.add("cloudevent", CloudEventAdapter())
ADAPTERS.add("snmp", SnmpAdapter())
ADAPTERS.add("mqtt", MqttAdapter())
ADAPTERS.add("modbus", ModbusAdapter())
ADAPTERS.add("onvif", OnvifAdapter())
ADAPTERS.add("scene", SceneAdapter())
ADAPTERS.add("session", SessionAdapter())
ADAPTERS.add("catalogue", CatalogueAdapter())

__all__ = ["ADAPTERS", "Adapter"]
