"""Devices as they describe themselves: what they have and can send, how that changes, and what has fallen silent."""
