"""Names for what SNMP tells by numbers: of the standard's own, and of MIB modules that are loaded."""
