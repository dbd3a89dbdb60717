"""Measures, each as a ratio against a limit taken in the same run. `make bench` runs them all."""
