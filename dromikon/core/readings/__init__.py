"""Readings of sensors before they are events: in the unit of their point, and no more of them than tell something."""
