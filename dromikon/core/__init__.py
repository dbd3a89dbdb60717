"""The job's computation: no framework, no I/O, no clock, no randomness. Time and input are arguments."""
