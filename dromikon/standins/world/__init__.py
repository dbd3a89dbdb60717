"""The simulated world: a pure function of seed, instant and the kept journal of provocations and commands."""
