"""Stand-ins: a simulated garden, and the devices and services that speak for it over real sockets.

They know nothing of the product but a few value types, so that the real thing can take their place.
"""
