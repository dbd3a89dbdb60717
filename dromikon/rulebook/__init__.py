"""Rulebook: rules and their revisions."""
