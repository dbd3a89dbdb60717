"""The engine: inbox -> decode -> journal -> evaluate -> one transaction -> outbox -> deliver."""
