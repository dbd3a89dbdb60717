"""The stand-in camera against a client that is not ours, which reads every answer by the official WSDLs."""

from datetime import timedelta
from urllib.parse import urlsplit

import httpx
import pytest
from lxml import etree
from onvif import ONVIFCamera
from onvif.definition import SERVICES
from onvif.exceptions import ONVIFError
from zeep.exceptions import Fault

from dromikon.standins.onvif.camera import StandInCamera
from dromikon.standins.onvif.soap import Account
from dromikon.standins.onvif.station import StandInStation
from dromikon.standins.picture.frame import Studio
from dromikon.standins.run import PASSWORD, USER
from dromikon.standins.world.world import World
from dromikon.wire.onvif.client import OnvifDevice
from dromikon.wire.onvif.learning import learn
from dromikon.wire.onvif.ptz import goto_preset
from dromikon.wire.onvif.soap import DeviceError
from tools.ports import free_port


@pytest.fixture
async def camera(standins):
    parts = urlsplit(standins["yard"])
    found = ONVIFCamera(parts.hostname, parts.port, USER, PASSWORD, adjust_time=True)
    await found.update_xaddrs()
    yield found
    await found.close()


async def test_device_management(camera):
    device = await camera.create_devicemgmt_service()
    information = await device.GetDeviceInformation()
    assert (information.Model, information.SerialNumber) == ("Heron 6", "QN-CAM-0003")
    assert len(await device.GetServices({"IncludeCapability": False})) == 5
    assert [r.token for r in await device.GetRelayOutputs()] == ["siren-light", "siren-sound"]
    moment = (await device.GetSystemDateAndTime()).UTCDateTime
    assert moment.Date.Year >= 2026


async def test_media_profiles_and_a_snapshot_that_is_a_picture(camera):
    media = await camera.create_media_service()
    profiles = await media.GetProfiles()
    assert profiles[0].VideoSourceConfiguration.Bounds.width == 960
    address = (await media.GetSnapshotUri({"ProfileToken": profiles[0].token})).Uri
    async with httpx.AsyncClient(timeout=30) as http:
        assert (await http.get(address)).status_code == 401
        picture = await http.get(address, auth=httpx.DigestAuth(USER, PASSWORD))
    assert picture.content[:3] == b"\xff\xd8\xff" and len(picture.content) > 20_000


async def test_events_properties_and_synchronization_point(camera):
    events = await camera.create_events_service()
    properties = await events.GetEventProperties()
    tree = etree.tostring(properties.TopicSet._value_1[0]).decode()
    assert "ObjectIsLoitering" in tree and "Crossed" in tree
    manager = await camera.create_pullpoint_manager(timedelta(seconds=60), lambda: None)
    try:
        pull = {"MessageLimit": 10, "Timeout": timedelta(seconds=2)}
        first = await manager.get_service().PullMessages(pull)
        told = {m.Topic._value_1: m.Message._value_1.PropertyOperation for m in first.NotificationMessage}
        assert told == {
            "tns1:RuleEngine/LoiteringDetector/ObjectIsLoitering": "Initialized",
            "tns1:Device/Trigger/DigitalInput": "Initialized",
        }
        await manager.set_synchronization_point()
        again = await manager.get_service().PullMessages(pull)
        assert len(again.NotificationMessage) == 2
        item = again.NotificationMessage[0].Message._value_1.Data.SimpleItem[0]
        assert (item.Name, item.Value) == ("State", "false")
    finally:
        await manager.shutdown()


async def test_analytics_rules_are_read_made_changed_and_deleted(camera, monkeypatch):
    media, engine = await camera.create_media_service(), await camera.create_analytics_service()
    token = (await media.GetProfiles())[0].VideoAnalyticsConfiguration.token
    modules = await engine.GetAnalyticsModules({"ConfigurationToken": token})
    assert modules[0].Type == "tt:ObjectDetection"
    could = await engine.GetSupportedAnalyticsModules({"ConfigurationToken": token})
    assert {d.Name for d in could.AnalyticsModuleDescription} == {"tt:ObjectDetection", "tt:CellMotionEngine"}
    # The description has a port of its own for rules.
    monkeypatch.setitem(SERVICES["analytics"], "binding", "RuleEngineBinding")
    camera.services.clear()
    analytics = await camera.create_analytics_service()
    supported = await analytics.GetSupportedRules({"ConfigurationToken": token})
    described = {d.Name: d for d in supported.RuleDescription}
    assert set(described) == {"tt:LineDetector", "tt:LoiteringDetector"}
    assert [m.ParentTopic for m in described["tt:LineDetector"].Messages] == ["tns1:RuleEngine/LineDetector/Crossed"]
    first = {r.Name: r for r in await analytics.GetRules({"ConfigurationToken": token})}
    assert set(first) == {"Yard gate line", "Loading bay"}
    corners = first["Loading bay"].Parameters.ElementItem[0]._value_1.Point
    assert len(corners) >= 4 and all(-1 <= p.x <= 1 and -1 <= p.y <= 1 for p in corners)
    with pytest.raises((ONVIFError, Fault), match="no such rule"):
        await analytics.DeleteRules({"ConfigurationToken": token, "RuleName": ["Nothing"]})


async def test_where_the_metadata_is_streamed(camera):
    media = await camera.create_media_service()
    profile = (await media.GetProfiles())[0]
    assert profile.MetadataConfiguration.Analytics
    wanted = {"Stream": "RTP-Unicast", "Transport": {"Protocol": "RTSP"}}
    told = await media.GetStreamUri({"StreamSetup": wanted, "ProfileToken": profile.token})
    assert told.Uri.startswith("rtsp://127.0.0.1:") and told.Uri.endswith("/metadata")


async def test_measured_regions_are_rules_of_the_makers_own(standins, monkeypatch):
    parts = urlsplit(standins["flue"])
    thermal = ONVIFCamera(parts.hostname, parts.port, USER, PASSWORD, adjust_time=True)
    await thermal.update_xaddrs()
    monkeypatch.setitem(SERVICES["analytics"], "binding", "RuleEngineBinding")
    try:
        analytics = await thermal.create_analytics_service()
        token = {"ConfigurationToken": "analytics"}
        described = {d.Name: d for d in (await analytics.GetSupportedRules(token)).RuleDescription}
        assert [m.ParentTopic for m in described["so:MeasuredRegion"].Messages] == [
            "tns1:VideoAnalytics/Radiometry/BoxTemperatureReading"
        ]
        rules = {r.Name: r for r in await analytics.GetRules(token)}
        assert set(rules) == {"Boiler flue", "Circulation pump"} and rules["Boiler flue"].Type == "so:MeasuredRegion"
        events = await thermal.create_events_service()
        tree = etree.tostring((await events.GetEventProperties()).TopicSet._value_1[0]).decode()
        tree += "".join(etree.tostring(e).decode() for e in (await events.GetEventProperties()).TopicSet._value_1)
        assert "BoxTemperatureReading" in tree
    finally:
        await thermal.close()


async def test_renew_moves_the_end_and_after_unsubscribe_there_is_nothing(camera):
    manager = await camera.create_pullpoint_manager(timedelta(seconds=60), lambda: None)
    subscription = await camera.create_subscription_service("PullPointSubscription")
    renewed = await subscription.Renew({"TerminationTime": "PT120S"})
    assert renewed.TerminationTime > renewed.CurrentTime + timedelta(seconds=100)
    service = manager.get_service()
    await subscription.Unsubscribe()
    with pytest.raises((ONVIFError, Fault), match="no such subscription"):
        await service.PullMessages({"MessageLimit": 1, "Timeout": timedelta(seconds=1)})
    await manager.shutdown()


async def test_a_wrong_password_is_refused(standins):
    parts = urlsplit(standins["yard"])
    camera = ONVIFCamera(parts.hostname, parts.port, USER, "wrong")
    with pytest.raises((ONVIFError, Fault)):
        await camera.update_xaddrs()
        await (await camera.create_devicemgmt_service()).GetDeviceInformation()
    await camera.close()


async def test_curl_sees_a_fault_for_what_is_no_soap(standins):
    async with httpx.AsyncClient() as http:
        answer = await http.post(f"{standins['gate']}/onvif/device_service", content=b"<hello/>")
    assert answer.status_code == 400 and b"ter:WellFormed" in answer.content


async def test_a_camera_that_can_be_moved_goes_to_its_presets_and_its_picture_turns(serve, tmp_path):
    world, port = World(), free_port()
    address = f"http://127.0.0.1:{port}"
    made = StandInCamera("lake", Studio(world, tmp_path), address, Account(USER, PASSWORD))
    serve(made.app(), port)
    client = ONVIFCamera("127.0.0.1", port, USER, PASSWORD, adjust_time=True)
    await client.update_xaddrs()
    profile = (await (await client.create_media_service()).GetProfiles())[0]
    ptz = await client.create_ptz_service()
    presets = await ptz.GetPresets({"ProfileToken": profile.token})
    assert [p.Name for p in presets] == ["Jetty end", "Heron Island", "Lake path", "Boats"]
    before = (await ptz.GetStatus({"ProfileToken": profile.token})).Position.PanTilt.x
    ours = OnvifDevice(f"{address}/onvif/device_service", USER, PASSWORD)
    await ours.discover_services()
    await goto_preset(ours, "vs0", "3")
    with pytest.raises(DeviceError, match="no such preset"):
        await goto_preset(ours, "vs0", "9")
    with pytest.raises(DeviceError, match="cannot be moved"):
        await goto_preset(ours, "vs7", "1")
    after = (await ptz.GetStatus({"ProfileToken": profile.token})).Position.PanTilt.x
    assert after - before == pytest.approx((134 - 50) / 180, abs=0.001)
    at = world.entries[-1].at
    assert (world.view("lake", at - 1), world.view("lake", at)) == ("lake-1", "lake-3"), "the past stays as it was seen"
    await ours.close()
    await client.close()


async def test_a_door_station_tells_of_calls_in_a_topic_of_its_own(serve, tmp_path):
    world, port = World(), free_port()
    device = StandInStation("bell", Studio(world), f"http://127.0.0.1:{port}", Account(USER, PASSWORD))
    serve(device.app(), port)
    found = ONVIFCamera("127.0.0.1", port, USER, PASSWORD, adjust_time=True)
    await found.update_xaddrs()
    said = await (await found.create_events_service()).GetEventProperties()
    tree = etree.tostring(said.TopicSet._value_1[-1]).decode()
    assert "urn:stand-in-optics:stations" in tree and 'Name="State"' in tree
    assert [r.token for r in await (await found.create_devicemgmt_service()).GetRelayOutputs()] == ["strike"]
    await found.close()
    client = OnvifDevice(f"http://127.0.0.1:{port}/onvif/device_service", USER, PASSWORD)
    await client.discover_services()
    known = await learn(client)
    await client.close()
    assert "sta:Call/State" in {e["topic"] for e in known["events"]}
