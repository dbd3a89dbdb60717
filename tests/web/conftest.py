"""Fixtures of tests with a listener for traps."""

from tests.web.trapping import port

__all__ = ["port"]
