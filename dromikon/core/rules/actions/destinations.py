"""Destinations as targets of steps."""

#: Before a destination's id in the target of a step.
DESTINATION = "destination:"
