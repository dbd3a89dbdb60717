"""Answers in the shapes of the standard's own examples, with prefixes and parts that our stand-ins do not have."""

import pytest
from lxml import etree

from dromikon.wire.onvif import analytics, parts
from dromikon.wire.onvif.client import OnvifDevice, Profile
from dromikon.wire.onvif.clock import told_time
from dromikon.wire.onvif.namespaces import TAM, TAN, TDC, TPTZ
from dromikon.wire.onvif.soap import DeviceError
from dromikon.wire.onvif.topic_set import event_properties

NAMES = (
    'xmlns:tev="http://www.onvif.org/ver10/events/wsdl" xmlns:wstop="http://docs.oasis-open.org/wsn/t-1" '
    'xmlns:tns1="http://www.onvif.org/ver10/topics" xmlns:tt="http://www.onvif.org/ver10/schema" '
    'xmlns:mk="urn:some-maker" xmlns:tan="http://www.onvif.org/ver20/analytics/wsdl" '
    'xmlns:tam="http://www.onvif.org/ver10/appmgmt/wsdl" xmlns:tptz="http://www.onvif.org/ver20/ptz/wsdl" '
    'xmlns:tds="http://www.onvif.org/ver10/device/wsdl" xmlns:tdc="http://www.onvif.org/ver10/doorcontrol/wsdl"'
)


class Recorded(OnvifDevice):
    """Answers what was recorded, by operation; several of one operation one after the other. It knows no other."""

    def __init__(self, **answers):
        super().__init__("http://192.0.2.1/onvif/device_service", "", "")
        self.answers = {name: list(said) if isinstance(said, tuple) else [said] for name, said in answers.items()}
        self._services = dict.fromkeys(
            (TAN, TAM, TPTZ, TDC, "http://www.onvif.org/ver10/events/wsdl"), "http://192.0.2.1/x"
        )

    async def ask(self, space, name, *, timeout=None, **content):
        if name not in self.answers:
            raise DeviceError("fault", "There is no such operation.")
        kept = self.answers[name]
        said = kept.pop(0) if len(kept) > 1 else kept[0]
        return etree.fromstring(f"<answer {NAMES}>{said}</answer>")


async def test_topics_of_the_standard_and_of_a_maker_with_their_items():
    device = Recorded(
        GetEventProperties="""
        <wstop:TopicSet>
          <tns1:RuleEngine wstop:topic="true">
            <LineDetector wstop:topic="false"><Crossed wstop:topic="true">
              <tt:MessageDescription><tt:Source><tt:SimpleItemDescription Name="Rule" Type="xsd:string"/></tt:Source>
              <tt:Data><tt:SimpleItemDescription Name="ObjectId" Type="tt:ObjectRefType"/></tt:Data></tt:MessageDescription>
            </Crossed></LineDetector>
            <mk:Near><Zone wstop:topic="true"/></mk:Near>
          </tns1:RuleEngine>
          <mk:Lens><Fogged wstop:topic="1"><tt:MessageDescription IsProperty="true"><tt:Data>
            <tt:SimpleItemDescription Name="State" Type="xs:boolean"/></tt:Data></tt:MessageDescription></Fogged></mk:Lens>
        </wstop:TopicSet>"""
    )
    found = {e["topic"]: e for e in await event_properties(device)}
    assert set(found) == {
        "tns1:RuleEngine", "tns1:RuleEngine/LineDetector/Crossed", "tns1:RuleEngine/mk:Near/Zone", "mk:Lens/Fogged",
    }  # fmt: skip
    assert found["tns1:RuleEngine/LineDetector/Crossed"]["data"] == {"ObjectId": "ObjectRefType"}
    assert found["mk:Lens/Fogged"]["state"] is True and found["tns1:RuleEngine"]["source"] == {}


async def test_a_device_without_a_topic_set_can_send_nothing():
    assert await event_properties(Recorded(GetEventProperties="<tev:TopicNamespaceLocation/>")) == []


async def test_rules_with_several_shapes_and_settings_that_nobody_describes():
    device = Recorded(
        GetRules="""
        <tan:Rule Name="Gate" Type="tt:LineDetector"><tt:Parameters>
          <tt:SimpleItem Name="Direction" Value="Right"/><tt:SimpleItem Name="Sensitivity" Value="7"/>
          <tt:ElementItem Name="Segments"><tt:Polyline><tt:Point x="0.1" y="0.5"/><tt:Point x="-0.3" y="bad"/>
            <tt:Point x="1.0" y="0.0"/></tt:Polyline></tt:ElementItem>
          <tt:ElementItem Name="Ignore"><tt:PolygonConfiguration><tt:Polygon><tt:Point x="0" y="0"/><tt:Point x="0" y="1"/>
            <tt:Point x="1" y="1"/></tt:Polygon></tt:PolygonConfiguration></tt:ElementItem>
        </tt:Parameters></tan:Rule>
        <tan:Rule Name="Bare" Type="mk:Own"/>"""
    )
    gate, bare = await analytics.detectors(device, [Profile("p", "view", analytics="engine"), Profile("q", "view 2")])
    assert gate["channel"] == "view" and gate["analytics"] == "engine" and gate["waits"] == 0
    assert [(s["item"], s["sort"], s["points"]) for s in gate["shapes"]] == [
        ("Segments", "line", [(0.1, 0.5), (1.0, 0.0)]),
        ("Ignore", "area", [(0, 0), (0, 1), (1, 1)]),
    ]
    assert bare["parameters"] == {} and bare["shapes"] == []


async def test_modules_that_run_and_those_that_could():
    running = '<tan:AnalyticsModule Name="Things" Type="mk:Things"><tt:Parameters><tt:SimpleItem Name="Level" Value="3"/></tt:Parameters></tan:AnalyticsModule>'
    could = '<tt:AnalyticsModuleDescription Name="mk:Things"/><tt:AnalyticsModuleDescription Name="mk:Motion"/>'
    profiles = [Profile("p", "view", analytics="engine")]
    things = {"name": "Things", "type": "mk:Things", "parameters": {"Level": "3"}, "running": True}
    told = Recorded(
        GetAnalyticsModules=running,
        GetSupportedAnalyticsModules=f"<tan:SupportedAnalyticsModules>{could}</tan:SupportedAnalyticsModules>",
    )
    motion = {"name": "mk:Motion", "type": "mk:Motion", "parameters": {}, "running": False}
    assert await analytics.modules(told, profiles) == [things, motion]
    assert await analytics.modules(Recorded(GetAnalyticsModules=running), profiles) == [things], (
        "telling that is optional"
    )


async def test_applications_with_state_and_licence():
    device = Recorded(
        GetInstalledApps="<tam:App><tam:Name>Queue counter</tam:Name><tam:AppID>7</tam:AppID></tam:App>"
        "<tam:App><tam:Name>Smoke</tam:Name><tam:AppID>9</tam:AppID></tam:App>",
        GetAppsInfo=(
            "<tam:Info><tam:AppID>7</tam:AppID><tam:Version>2.1</tam:Version><tam:Licenses><tam:Name>full</tam:Name>"
            "</tam:Licenses><tam:State>Active</tam:State></tam:Info>",
            "<tam:nothing/>",
        ),
    )
    assert await parts.applications(device) == [
        {"id": "7", "name": "Queue counter", "version": "2.1", "running": True, "licensed": True},
        {"id": "9", "name": "Smoke", "version": "", "running": False, "licensed": None},
    ]


async def test_presets_without_names_and_only_of_what_moves():
    device = Recorded(GetPresets='<tptz:Preset token="3"><tt:Name>Home</tt:Name></tptz:Preset><tptz:Preset token="4"/>')
    found = await parts.presets(device, [Profile("fixed", "v", "vs1"), Profile("dome", "v", "vs2", moves="ptz")])
    assert [(p["channel"], p["token"], p["name"]) for p in found] == [("vs2", "3", "Home"), ("vs2", "4", "4")]


async def test_a_list_of_doors_that_never_ends_is_given_up():
    door = '<tdc:NextStartReference>again</tdc:NextStartReference><tdc:DoorInfo token="d"/>'
    with pytest.raises(DeviceError, match="no end"):
        await parts.doors(Recorded(GetDoorInfoList=door))


@pytest.mark.parametrize(
    ("zone", "summer", "utc"),
    [
        ("CET-1CEST,M3.5.0,M10.5.0/3", "true", 10), ("CET-1CEST,M3.5.0,M10.5.0/3", "false", 11), ("EST5EDT", "false", 17),
        ("&lt;+0530&gt;-5:30", "false", 6.5), ("UTC0", "false", 12),
    ],
)  # fmt: skip
def test_local_time_is_reckoned_back_by_its_zone(zone, summer, utc):
    said = (
        f"<tt:DaylightSavings>{summer}</tt:DaylightSavings><tt:TimeZone><tt:TZ>{zone}</tt:TZ></tt:TimeZone><tt:LocalDateTime>"
        "<tt:Time><tt:Hour>12</tt:Hour><tt:Minute>0</tt:Minute><tt:Second>0</tt:Second></tt:Time>"
        "<tt:Date><tt:Year>2026</tt:Year><tt:Month>7</tt:Month><tt:Day>1</tt:Day></tt:Date></tt:LocalDateTime>"
    )
    told = told_time(etree.fromstring(f"<answer {NAMES}>{said}</answer>"))
    assert told.hour + told.minute / 60 == utc


@pytest.mark.parametrize(
    "said", ["", "<tt:LocalDateTime/>", "<tt:UTCDateTime><tt:Date><tt:Month>13</tt:Month></tt:Date></tt:UTCDateTime>"]
)
def test_a_time_that_does_not_exist_is_malformed(said):
    with pytest.raises(DeviceError):
        told_time(etree.fromstring(f"<answer {NAMES}>{said}</answer>"))
