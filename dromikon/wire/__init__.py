"""Protocol clients and listeners. They know bytes and core types, and nothing of the web framework."""
