"""Alarm states and figures, after IEC 62682."""
