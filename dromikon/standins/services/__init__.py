"""Stand-ins of what steps send to: they keep what they last received, and one page shows it."""
