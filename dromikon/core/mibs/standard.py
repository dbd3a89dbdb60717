"""What the standard's own modules define, as far as traps of common devices need it (RFC 3418, RFC 2863, RFC 1628)."""

#: Where names begin that modules build upon (RFC 2578, RFC 1155).
ROOTS: dict[str, str] = {
    "iso": "1", "org": "1.3", "dod": "1.3.6", "internet": "1.3.6.1", "directory": "1.3.6.1.1", "mgmt": "1.3.6.1.2", "mib-2": "1.3.6.1.2.1",
    "transmission": "1.3.6.1.2.1.10", "experimental": "1.3.6.1.3", "private": "1.3.6.1.4", "enterprises": "1.3.6.1.4.1", "security": "1.3.6.1.5",
    "snmpV2": "1.3.6.1.6", "snmpDomains": "1.3.6.1.6.1", "snmpProxys": "1.3.6.1.6.2", "snmpModules": "1.3.6.1.6.3", "zeroDotZero": "0.0",
}  # fmt: skip
_UP_DOWN = {1: "up", 2: "down", 3: "testing"}
_STANDS = {1: "up", 2: "down", 3: "testing", 4: "unknown", 5: "dormant", 6: "notPresent", 7: "lowerLayerDown"}
#: Name, below what, numbers, and what values mean.
DEFINED: tuple[tuple[str, str, tuple[int, ...], dict[int, str]], ...] = (
    ("system", "mib-2", (1,), {}), ("sysDescr", "system", (1,), {}), ("sysObjectID", "system", (2,), {}), ("sysUpTime", "system", (3,), {}),
    ("sysContact", "system", (4,), {}), ("sysName", "system", (5,), {}), ("sysLocation", "system", (6,), {}),
    ("snmpMIB", "snmpModules", (1,), {}), ("snmpTrap", "snmpMIB", (1, 4), {}), ("snmpTrapOID", "snmpTrap", (1,), {}),
    ("snmpTrapEnterprise", "snmpTrap", (3,), {}), ("snmpTraps", "snmpMIB", (1, 5), {}), ("coldStart", "snmpTraps", (1,), {}),
    ("warmStart", "snmpTraps", (2,), {}), ("linkDown", "snmpTraps", (3,), {}), ("linkUp", "snmpTraps", (4,), {}),
    ("authenticationFailure", "snmpTraps", (5,), {}), ("egpNeighborLoss", "snmpTraps", (6,), {}),
    ("interfaces", "mib-2", (2,), {}), ("ifTable", "interfaces", (2,), {}), ("ifEntry", "ifTable", (1,), {}), ("ifIndex", "ifEntry", (1,), {}),
    ("ifDescr", "ifEntry", (2,), {}), ("ifType", "ifEntry", (3,), {}), ("ifAdminStatus", "ifEntry", (7,), _UP_DOWN),
    ("ifOperStatus", "ifEntry", (8,), _STANDS), ("ifMIB", "mib-2", (31,), {}), ("ifXEntry", "ifMIB", (1, 1, 1), {}),
    ("ifName", "ifXEntry", (1,), {}), ("ifAlias", "ifXEntry", (18,), {}),
    ("upsMIB", "mib-2", (33,), {}), ("upsObjects", "upsMIB", (1,), {}), ("upsIdent", "upsObjects", (1,), {}), ("upsIdentName", "upsIdent", (5,), {}),
    ("upsBattery", "upsObjects", (2,), {}),
    ("upsBatteryStatus", "upsBattery", (1,), {1: "unknown", 2: "batteryNormal", 3: "batteryLow", 4: "batteryDepleted"}),
    ("upsSecondsOnBattery", "upsBattery", (2,), {}), ("upsEstimatedMinutesRemaining", "upsBattery", (3,), {}),
    ("upsEstimatedChargeRemaining", "upsBattery", (4,), {}), ("upsAlarm", "upsObjects", (6,), {}), ("upsAlarmsPresent", "upsAlarm", (1,), {}),
    ("upsAlarmTable", "upsAlarm", (2,), {}), ("upsAlarmEntry", "upsAlarmTable", (1,), {}), ("upsAlarmId", "upsAlarmEntry", (1,), {}),
    ("upsAlarmDescr", "upsAlarmEntry", (2,), {}), ("upsAlarmTime", "upsAlarmEntry", (3,), {}), ("upsWellKnownAlarms", "upsAlarm", (3,), {}),
    ("upsAlarmBatteryBad", "upsWellKnownAlarms", (1,), {}), ("upsAlarmOnBattery", "upsWellKnownAlarms", (2,), {}),
    ("upsAlarmLowBattery", "upsWellKnownAlarms", (3,), {}), ("upsAlarmDepletedBattery", "upsWellKnownAlarms", (4,), {}),
    ("upsConfigLowBattTime", "upsObjects", (9, 7), {}), ("upsTraps", "upsMIB", (2,), {}), ("upsTrapOnBattery", "upsTraps", (1,), {}),
    ("upsTrapTestCompleted", "upsTraps", (2,), {}), ("upsTrapAlarmEntryAdded", "upsTraps", (3,), {}),
    ("upsTrapAlarmEntryRemoved", "upsTraps", (4,), {}),
)  # fmt: skip
