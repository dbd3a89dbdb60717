"""Lists: plates, people, cards and values to compare with."""
