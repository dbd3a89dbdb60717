"""Modbus devices: which of their registers and inputs are read, and what they mean."""
