"""ONVIF: SOAP calls, pull-point sessions and notification messages."""
