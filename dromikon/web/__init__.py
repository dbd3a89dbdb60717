"""Shared templates, the component kit, the event stream and static files."""
