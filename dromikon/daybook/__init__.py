"""Daybook: the journal, events, traces, runs and steps."""
