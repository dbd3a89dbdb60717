"""Lists: things that events are compared with."""
