"""SNMP as far as traps and informs need it: who sends them, and what our answers are."""
