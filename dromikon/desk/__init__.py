"""Desk: alarms that need a person, and what is being shown."""
